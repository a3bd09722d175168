import { describe, expect, it } from 'vitest';
import type { Chain } from '@/api/client';
import { partOf, pathsOf } from '@/support/refusals';

const path = (id: string, through: string[] = []) => ({
  id,
  source: 'radio',
  through,
  amplifier: `a-${id}`,
  load: `l-${id}`,
});
const chain = {
  sources: [{ id: 'radio' }, { id: 'idle' }],
  processors: [{ id: 'box' }],
  amplifiers: [{ id: 'a-front' }, { id: 'a-sub' }],
  loads: [{ id: 'l-sub' }, { id: 'l-front' }],
  paths: [path('front', ['box']), path('sub')],
} as unknown as Chain;

describe('a refusal', () => {
  it.each([
    ['vehicle', 'vehicle', [0, 1]],
    ['choices.overlap_hz', 'methods', [0, 1]],
    ['chain.sources.0.outputs.1.name', 'source', [0, 1]],
    ['chain.sources.1.top_volume', 'source', []],
    ['chain.processors.0.highest_input.volts', 'between', [0]],
    ['chain.amplifiers.1.ratings.0.power_w', 'amplifier', [1]],
    ['chain.loads.0.impedance_ohm', 'speakers', [1]],
    ['chain.paths.1.mode', 'amplifier', [1]],
    ['chain.paths.0.equaliser.3.gain_db', 'between', [0]],
    ['chain.paths.1.filters.0.crossover.corner_hz', 'filters', [1]],
    ['chain.paths.0.output', 'source', [0]],
    ['chain', undefined, [0, 1]],
  ])('at %s is shown under %s', (place, part, paths) => {
    expect(partOf(place)).toBe(part);
    expect(pathsOf(chain, place)).toEqual(paths);
  });
});
