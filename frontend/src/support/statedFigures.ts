/** Figures of a part's data sheet, a line each. */
import type { ShopPart } from '@/api/client';
import { formatValue } from './quantity';

type Amplifier = NonNullable<ShopPart['amplifier']>;
const MODES = { per_channel: 'each channel', bridged: 'bridged pair', strapped: 'two strapped' };

function ofAmplifier(part: Amplifier): string[] {
  const ratings = [...(part.ratings ?? []), ...(part.sections ?? []).flatMap((one) => one.ratings ?? [])];
  return [
    ...ratings.map((one) =>
      [
        `${formatValue(one.power_w, 'W')} into ${formatValue(one.load_ohm, 'Ω')}`,
        MODES[one.mode ?? 'per_channel'],
        one.supply_v ? `at ${formatValue(one.supply_v, 'V')}` : '',
        one.distortion_percent ? `${formatValue(one.distortion_percent, '%')} distortion` : '',
      ]
        .filter(Boolean)
        .join(', '),
    ),
    part.sections?.length ? `${part.sections.length} sections` : '',
    part.lowest_load_ohm ? `Lowest load of a channel ${formatValue(part.lowest_load_ohm, 'Ω')}` : '',
    part.gain_range
      ? `Gain ${formatValue(part.gain_range.down_v, 'V')} fully down, ${formatValue(part.gain_range.up_v, 'V')} fully up`
      : '',
    part.signal_to_noise_db ? `Signal-to-noise ratio ${formatValue(part.signal_to_noise_db, 'dB')}` : '',
  ];
}

function ofSpeakers(part: NonNullable<ShopPart['speakers']>): string[] {
  return [
    part.impedance_ohm ? formatValue(part.impedance_ohm, 'Ω') : '',
    part.power_w ? `${formatValue(part.power_w, 'W')} continuous` : '',
    part.sensitivity_db ? `${formatValue(part.sensitivity_db, 'dB')} at 1 m` : '',
    part.lowest_hz ? `Plays from ${formatValue(part.lowest_hz, 'Hz')}` : '',
    part.highest_hz ? `Plays to ${formatValue(part.highest_hz, 'Hz')}` : '',
  ];
}

function ofProcessor(part: NonNullable<ShopPart['processor']>): string[] {
  return [
    part.highest_input.volts ? `Takes up to ${formatValue(part.highest_input.volts, 'V')}` : '',
    `Gives up to ${formatValue(part.highest_output_v, 'V')}`,
  ];
}

export function statedOf(part: ShopPart): string[] {
  if (part.amplifier) return ofAmplifier(part.amplifier).filter(Boolean);
  if (part.processor) return ofProcessor(part.processor).filter(Boolean);
  return part.speakers ? ofSpeakers(part.speakers).filter(Boolean) : [];
}
