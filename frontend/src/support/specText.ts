/** The figures that were found in a data sheet's text, one by one, each with the part that it is put into. */
import type { Amplifier, Load, Schemas } from '@/api/client';
import { formatValue } from './quantity';

export type SpecFigure<Part> = {
  key: string;
  words: string;
  /** The line it was read from, where it isn't the only one. */
  line?: string;
  put: (part: Part) => void;
};

const rangeWords = ({ down_v, up_v }: { down_v: number; up_v: number }) =>
  `${formatValue(down_v, 'V')} fully down, ${formatValue(up_v, 'V')} fully up`;

/** Figures of an amplifier. The first rating that is put takes the place of those that were there. */
export function amplifierFigures(spec: Schemas['AmplifierSpec']): SpecFigure<Amplifier>[] {
  const found: SpecFigure<Amplifier>[] = [];
  const ratings = spec.ratings ?? [];
  let first = true;
  ratings.forEach(({ rating, words, line }, index) =>
    found.push({
      key: `rating-${index}`,
      words,
      line,
      put: (part) => {
        part.ratings = first ? [rating as Amplifier['ratings'][number]] : [...part.ratings, rating as never];
        first = false;
      },
    }),
  );
  if (ratings.length && ratings.every((rating) => rating.channels === 1))
    found.push({ key: 'mono', words: 'Mono', put: (part) => (part.channels = 1) });
  const { lowest_load_ohm: load, gain_range: low, high_level_range: high, signal_to_noise_db: ratio } = spec;
  if (load != null)
    found.push({
      key: 'load',
      words: `Lowest load of a channel ${formatValue(load, 'Ω')}`,
      put: (part) => (part.lowest_load_ohm = load),
    });
  if (low)
    found.push({
      key: 'low',
      words: `Gain scale, low-level input: ${rangeWords(low)}`,
      put: (part) => (part.gain_range = low as Amplifier['gain_range']),
    });
  if (high)
    found.push({
      key: 'high',
      words: `Gain scale, high-level input: ${rangeWords(high)}`,
      put: (part) => (part.high_level_range = high as Amplifier['high_level_range']),
    });
  if (ratio != null)
    found.push({
      key: 'noise',
      words: `Signal-to-noise ratio ${formatValue(ratio, 'dB')}${spec.signal_to_noise_at === 'one_watt' ? ' at 1 W' : ''}`,
      put: (part) => {
        part.signal_to_noise_db = ratio;
        part.signal_to_noise_at = spec.signal_to_noise_at ?? 'rated_output';
      },
    });
  return found;
}

/** Figures of a speaker. */
export function speakerFigures(spec: Schemas['SpeakerSpec']): SpecFigure<Load>[] {
  const found: SpecFigure<Load>[] = [];
  const { impedance_ohm: ohm, power_w: power, sensitivity_db: loud, lowest_hz: from, highest_hz: to } = spec;
  const coils = spec.coils === 2 || spec.coils === 4 ? spec.coils : null;
  if (ohm != null)
    found.push({
      key: 'ohm',
      words: coils ? `${coils} coils of ${formatValue(ohm, 'Ω')}` : `${formatValue(ohm, 'Ω')}`,
      put: (part) => {
        part.impedance_ohm = ohm;
        if (coils) part.coils = coils;
      },
    });
  if (power != null)
    found.push({
      key: 'power',
      words: `${formatValue(power, 'W')} continuous`,
      put: (part) => (part.power_w = power),
    });
  if (loud != null)
    found.push({
      key: 'sensitivity',
      words: `${formatValue(loud, 'dB')} with ${spec.sensitivity_at === '2.83v' ? '2.83 V' : '1 W'}`,
      put: (part) => {
        part.sensitivity_db = loud;
        part.sensitivity_at = spec.sensitivity_at ?? 'watt';
      },
    });
  if (from != null && to != null)
    found.push({
      key: 'range',
      words: `Plays from ${formatValue(from, 'Hz')} to ${formatValue(to, 'Hz')}`,
      put: (part) => {
        part.lowest_hz = from;
        part.highest_hz = to;
      },
    });
  return found;
}
