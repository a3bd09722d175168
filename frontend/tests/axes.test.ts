import { describe, expect, it } from 'vitest';
import { evenTicks, frequencyTicks, linePath, place, spaced } from '@/support/axes';

describe('axes', () => {
  it('place values evenly, or evenly in ratio', () => {
    expect(place({ from: 0, to: 10 }, 200, 5)).toBe(100);
    expect(place({ from: -5, to: 5 }, 200, -5)).toBe(0);
    expect(place({ from: 20, to: 20000, log: true }, 300, 200)).toBeCloseTo(100);
    expect(place({ from: 20, to: 20000, log: true }, 300, 20000)).toBeCloseTo(300);
  });

  it('do not break on nothing', () => {
    expect(place({ from: 3, to: 3 }, 100, 3)).toBe(0);
    expect(Number.isFinite(place({ from: 1, to: 10, log: true }, 100, 0))).toBe(true);
  });

  it.each([
    [0, 10, 5, [0, 2, 4, 6, 8, 10]],
    [-0.31, 0.29, 6, [-0.3, -0.2, -0.1, 0, 0.1, 0.2]],
    [-36, 9, 6, [-30, -20, -10, 0]],
    [17.4, 31.6, 8, [18, 20, 22, 24, 26, 28, 30]],
  ])('from %d to %d about %d round ticks', (from, to, wanted, ticks) => {
    const found = evenTicks(from, to, wanted);
    expect(found).toHaveLength(ticks.length);
    found.forEach((tick, index) => expect(tick).toBeCloseTo(ticks[index] ?? NaN));
  });

  it('names frequencies as people say them', () => {
    expect(frequencyTicks(40, 3000).map((tick) => tick.text)).toEqual([
      '50',
      '100',
      '200',
      '500',
      '1k',
      '2k',
    ]);
  });
});

describe('figures beside each other', () => {
  const on = (wide: number) => {
    const at = (value: number) => place({ from: 20, to: 20000, log: true }, wide, value);
    return { at, texts: spaced(frequencyTicks(20, 20000), at).map((tick) => tick.text) };
  };

  it('all stand where there is room, and keep the powers of ten where there is little', () => {
    expect(on(900).texts).toHaveLength(10);
    const narrow = on(240).texts;
    expect(narrow).toEqual(expect.arrayContaining(['100', '1k', '10k']));
    expect(narrow.length).toBeLessThan(10);
  });

  it.each([100, 200, 300, 400, 600])('never touch on %d pixels', (wide) => {
    const { at, texts } = on(wide);
    const kept = frequencyTicks(20, 20000).filter((tick) => texts.includes(tick.text));
    kept.slice(1).forEach((tick, index) => {
      const before = kept[index];
      if (before)
        expect(at(tick.at) - at(before.at)).toBeGreaterThan(3.5 * (tick.text.length + before.text.length));
    });
  });
});

describe('a line', () => {
  it('breaks where a point is missing', () => {
    expect(linePath([[0, 1], [2, 3], null, [4, 5], [6, 7]])).toBe('M0.0 1.0L2.0 3.0M4.0 5.0L6.0 7.0');
    expect(linePath([])).toBe('');
    expect(linePath([null, null])).toBe('');
  });
});
