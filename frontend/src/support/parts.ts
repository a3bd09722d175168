/** The parts of a system as a sheet lists them: each by its name and figures, equal ones counted. */
import type { Chain } from '@/api/client';
import { formatValue } from './quantity';

export const ohms = (value: number | null | undefined) =>
  value == null ? '? Ω' : formatValue(value, 'Ω', 3);
export const watts = (value: number | null | undefined) =>
  value == null ? '? W' : formatValue(value, 'W', 3);

function amplifierInWords(one: Chain['amplifiers'][number]): string {
  if (one.name) return one.name;
  const rating = one.ratings[0];
  return rating
    ? `Amplifier without a name, ${watts(rating.power_w)} into ${ohms(rating.load_ohm)}`
    : 'Amplifier without a name';
}

const sourceInWords = (one: Chain['sources'][number]) =>
  `${one.name || 'Source without a name'}, volume to ${one.top_volume}`;
const speakersInWords = (one: Chain['loads'][number]) =>
  `${one.name || 'Speakers without a name'}, ${one.count} × ${ohms(one.impedance_ohm)}, ${watts(one.power_w)}`;

export function partsInWords({ sources, amplifiers, loads }: Chain): string[] {
  const counted = new Map<string, number>();
  const all = [
    ...sources.map(sourceInWords),
    ...amplifiers.map(amplifierInWords),
    ...loads.map(speakersInWords),
  ];
  for (const one of all) counted.set(one, (counted.get(one) ?? 0) + 1);
  return [...counted].map(([words, times]) => (times > 1 ? `${words} (${times} of them)` : words));
}
