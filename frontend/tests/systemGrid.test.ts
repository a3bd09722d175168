import { describe, expect, it } from 'vitest';
import type { Chain } from '@/api/client';
import { buildSystemGrid, NAMES, neighbour } from '@/support/systemGrid';

/** Paths by their parts: source, output and what lies between. */
function chainOf(paths: { source?: string; output?: string; through?: string[] }[]): Chain {
  const sources = [...new Set(paths.map((path) => path.source ?? 'radio'))].map((id) => ({
    id,
    name: id,
    top_volume: 40,
    outputs: ['front', 'sub'].map((output) => ({ id: output, name: output, rated: { volts: 4 } })),
  }));
  const processors = [...new Set(paths.flatMap((path) => path.through ?? []))].map((id) => ({
    id,
    name: id,
    highest_output_v: 4,
  }));
  return {
    sources,
    processors,
    amplifiers: paths.map((_, index) => ({
      id: `a${index}`,
      name: '',
      ratings: [{ power_w: 75, load_ohm: 4 }],
      sections: [],
    })),
    loads: paths.map((_, index) => ({
      id: `l${index}`,
      name: '',
      count: 1,
      impedance_ohm: 4,
      power_w: null,
    })),
    paths: paths.map((path, index) => ({
      id: `p${index}`,
      source: path.source ?? 'radio',
      output: path.output ?? 'front',
      through: path.through ?? [],
      amplifier: `a${index}`,
      load: `l${index}`,
    })),
  } as unknown as Chain;
}

describe('the picture of a system', () => {
  it('lays what paths share once, under all of them', () => {
    const grid = buildSystemGrid(chainOf([{ through: ['dsp'] }, { output: 'sub' }, { through: ['dsp'] }]));
    const named = (name: string) => grid.blocks.filter((block) => block.name === name);
    expect(named('radio')).toMatchObject([{ column: 0, span: 3, paths: [0, 2, 1] }]);
    // The third path is drawn beside the first, whose processor it goes through.
    expect(grid.order).toEqual([0, 2, 1]);
    expect(named('dsp')).toMatchObject([{ span: 2, paths: [0, 2] }]);
    expect(named('front')).toMatchObject([{ span: 2 }]);
    expect(named('Speakers')).toHaveLength(3);
    expect(named('Speakers')[0]?.figure).toBe('4 Ω · ? W');
  });

  it('lays an amplifier with sections once, below a block for each', () => {
    const chain = chainOf([{}, {}, { output: 'sub' }]);
    const own = { ratings: [{ power_w: 300, load_ohm: 2 }] };
    const sections = [
      { id: 'one', name: 'Front pair', ratings: [] },
      { id: 'two', name: '', ratings: own.ratings },
    ];
    const [first, second] = chain.paths;
    Object.assign(chain.amplifiers[0] ?? {}, { name: 'Four', sections });
    Object.assign(first ?? {}, { section: 'one' });
    Object.assign(second ?? {}, { section: 'two', amplifier: 'a0' });
    const grid = buildSystemGrid(chain);
    const named = (name: string) => grid.blocks.filter((block) => block.name === name);
    expect(named('Four')).toMatchObject([{ row: 2, span: 2, paths: [0, 1], figure: '2 sections' }]);
    expect(named('Front pair')).toMatchObject([{ row: 1, span: 1, figure: '75 W into 4 Ω' }]);
    expect(named('Section 2')).toMatchObject([{ row: 1, figure: '300 W into 2 Ω' }]);
    // One without sections has nothing below it.
    expect(named('Amplifier')).toMatchObject([{ row: 1, column: 2 }]);
  });

  it('leads from block to block by the arrows, over what is empty', () => {
    const grid = buildSystemGrid(chainOf([{}, { through: ['dsp'] }]));
    const [speakers, amplifier, between, output, source] = [0, 1, 2, 3, 4];
    expect(neighbour(grid, { row: amplifier, column: 0 }, 'ArrowDown')).toEqual({ row: output, column: 0 });
    expect(neighbour(grid, { row: amplifier, column: 1 }, 'ArrowDown')).toEqual({ row: between, column: 1 });
    expect(neighbour(grid, { row: speakers, column: 1 }, 'ArrowUp')).toEqual({ row: NAMES, column: 1 });
    expect(neighbour(grid, { row: NAMES, column: 0 }, 'ArrowUp')).toBeNull();
    expect(neighbour(grid, { row: source, column: 0 }, 'ArrowRight')).toBeNull();
    expect(neighbour(grid, { row: amplifier, column: 0 }, 'ArrowRight')).toEqual({
      row: amplifier,
      column: 1,
    });
    expect(neighbour(grid, { row: amplifier, column: 0 }, 'x')).toBeNull();
  });
});
