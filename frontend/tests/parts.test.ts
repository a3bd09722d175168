import { expect, test } from 'vitest';
import type { Chain } from '@/api/client';
import { partsInWords } from '@/support/parts';

test('parts are listed by name and figures, and equal ones counted', () => {
  const chain = {
    sources: [{ id: 's', name: 'Lanthorn R4', top_volume: 44 }],
    amplifiers: [
      { id: 'a', name: '', ratings: [{ power_w: 75, load_ohm: 4 }] },
      { id: 'b', name: '', ratings: [{ power_w: 75, load_ohm: 4 }] },
      { id: 'c', name: '', ratings: [] },
    ],
    loads: [{ id: 'l', name: 'Osier 165', count: 2, impedance_ohm: null, power_w: 60 }],
  } as unknown as Chain;
  expect(partsInWords(chain)).toEqual([
    'Lanthorn R4, volume to 44',
    'Amplifier without a name, 75 W into 4 Ω (2 of them)',
    'Amplifier without a name',
    'Osier 165, 2 × ? Ω, 60 W',
  ]);
});
