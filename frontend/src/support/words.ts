import type { Change, Verdict } from '@/api/client';

export const VERDICT_WORDS: Record<Verdict | 'unseen', string> = {
  clean: 'clean',
  edge: 'at the edge',
  clipped: 'clipped',
  square: 'square',
  distorted: 'distorted',
  over_range: 'larger than the range',
  wrong_tone: 'wrong tone',
  not_a_tone: 'not a tone',
  silent: 'silent',
  too_short: 'too short',
  unseen: 'not seen',
};

const PLACES: [RegExp, string][] = [
  [/^vehicle$/, 'Vehicle'],
  [/^note$/, 'Note'],
  [/sources\.\d+\.name/, 'Source, name'],
  [/sources\.\d+\.outputs\.\d+\.rated/, 'Source, rated output'],
  [/sources\.\d+\.outputs/, 'Source, outputs'],
  [/sources\.\d+\.inputs/, 'Source, ways of playing'],
  [/sources\.\d+\.tone/, 'Source, tone settings'],
  [/sources\.\d+\.kind/, 'Source, kind'],
  [/sources\.\d+\.top_volume/, 'Source, top volume number'],
  [/amplifiers\.\d+\.name/, 'Amplifier, name'],
  [/amplifiers\.\d+\.ratings\.\d+\.power_w/, 'Amplifier, rated watts'],
  [/amplifiers\.\d+\.ratings\.\d+\.load_ohm/, 'Amplifier, rated load'],
  [/amplifiers\.\d+\.ratings\.\d+\.mode/, 'Amplifier, rated mode'],
  [/amplifiers\.\d+\.lowest_load_ohm/, 'Amplifier, lowest load'],
  [/amplifiers\.\d+\.ratings/, 'Amplifier, ratings'],
  [/amplifiers\.\d+\.channels/, 'Amplifier, channels'],
  [/amplifiers\.\d+\.(gain_range|gain_printed)/, 'Amplifier, gain scale'],
  [/amplifiers\.\d+\.high/, 'Amplifier, inputs'],
  [/amplifiers\.\d+\.limiter/, 'Amplifier, limiter'],
  [/amplifiers\.\d+\.clip_lamp/, 'Amplifier, clip lamp'],
  [/amplifiers\.\d+\.regulated/, 'Amplifier, regulated supply'],
  [/loads\.\d+\.name/, 'Speakers, name'],
  [/loads\.\d+\.impedance_ohm/, 'Speakers, ohms'],
  [/loads\.\d+\.power_w/, 'Speakers, watts'],
  [/loads\.\d+\.count/, 'Speakers on the channel'],
  [/loads\.\d+\.wiring/, 'Speakers, wiring'],
  [/loads\.\d+\.band/, 'Speakers, what for'],
  [/processors\.\d+\.name/, 'Processor, name'],
  [/processors\.\d+\.kind/, 'Processor, kind'],
  [/processors\.\d+\.highest_input/, 'Processor, highest input'],
  [/processors\.\d+\.(highest|lowest)_output_v/, 'Processor, output range'],
  [/loads\.\d+\.sensitivity_db/, 'Speakers, sensitivity'],
  [/loads\.\d+\.(lowest|highest)_hz/, 'Speakers, usable range'],
  [/loads\.\d+\.(box|tuning_hz)/, 'Speakers, box'],
  [/loads\.\d+\.coil/, 'Speakers, voice coils'],
  [/loads\.\d+\.passive_hz/, 'Speakers, passive crossover'],
  [/processors\.\d+\.turn_on/, 'Processor, turn-on'],
  [/paths\.\d+\.filter/, 'Path, filters'],
  [/paths\.\d+\.(source|output)/, 'Path, source and output'],
  [/paths\.\d+\.(input|routing|leads)/, 'Path, amplifier input'],
  [/paths\.\d+\.boost/, 'Path, boost'],
  [/paths\.\d+\.(group|inverted)/, 'Path, group and polarity'],
  [/paths\.\d+\.equaliser/, 'Path, equaliser'],
  [/paths\.\d+\.channel_gain_db/, 'Path, channel gain'],
  [/paths\.\d+\.through/, 'Path, converter or processor'],
  [/choices\.converter_output/, 'Converter output'],
  [/paths\.\d+\.name/, 'Path, name'],
  [/paths\.\d+\.mode/, 'Channels used'],
  [/choices\.(top_volume|clicks_in_hand)/, 'Top volume'],
  [/choices\.tone$/, 'Tone for the gain'],
  [/choices\.gain/, 'What the gain is set to'],
  [/choices\.load/, 'Load while setting'],
  [/choices\.depth/, 'Depth at a corner'],
  [/choices\.(crossing|overlap_hz)/, 'Where neighbours cross'],
  [/choices\.blend/, 'Blending'],
  [/choices\.allowance/, 'Allowance'],
  [/choices\.tone_level/, 'Tone level'],
  [/choices\.sub_tone/, 'Tone for subwoofers'],
  [/choices\.full_tone/, 'Tone for the rest'],
];

/** A dotted place in a sheet, in the words of its form. */
export function placeInWords(place: string): string {
  return PLACES.find(([pattern]) => pattern.test(place))?.[1] ?? place;
}

export function valueInWords(value: Change['was']): string {
  if (value === null || value === '') return 'nothing';
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  return String(value);
}

const WHEN = new Intl.DateTimeFormat('en-GB', {
  day: 'numeric',
  month: 'short',
  hour: '2-digit',
  minute: '2-digit',
});

export function whenInWords(moment: string): string {
  return WHEN.format(new Date(moment));
}
