import { describe, expect, it } from 'vitest';
import cases from '../../tests/shared/photo_marks.json';
import type { PhotoMark } from '@/api/client';
import { arrowPath, edited, moved, radiusOf } from '@/support/photoMarks';

const tallOf = ({ width, height }: { width: number; height: number }) => (1000 * height) / width;

describe('marks as the papers draw them', () => {
  it('an arrow has its head where it points', () => {
    const path = arrowPath(cases.arrow.mark, tallOf(cases.arrow));
    const numbers = [...path.matchAll(/[\d.]+/g)].map(Number);
    expect(numbers).toHaveLength(cases.arrow.points.length);
    numbers.forEach((number, index) => expect(number).toBeCloseTo(cases.arrow.points[index] ?? 0, 1));
  });
  it.each(cases.circles)('a circle of $radius', ({ mark, radius, ...photo }) =>
    expect(radiusOf(mark, tallOf(photo))).toBeCloseTo(radius, 6),
  );
});

const mark = (x: number, kind: PhotoMark['kind'] = 'circle'): PhotoMark => ({
  kind,
  x,
  y: 0.5,
  x2: 0.9,
  y2: 0.5,
  text: '',
});

describe('what was done to a drawing', () => {
  it('is done to the marks that a colleague left meanwhile', () => {
    const [mine, theirs] = [mark(0.1), mark(0.2)];
    expect(edited([theirs], [{ from: null, to: mine }])).toEqual([theirs, mine]);
    expect(edited([theirs, mine], [{ from: mine, to: mark(0.3) }])).toEqual([theirs, mark(0.3)]);
    expect(edited([theirs, mine], [{ from: theirs, to: null }])).toEqual([mine]);
    // Sent twice, since an answer was lost, it is there once.
    expect(edited([theirs, mine], [{ from: null, to: mine }])).toEqual([theirs, mine]);
    // What somebody else took away stays away.
    expect(edited([theirs], [{ from: mine, to: mark(0.3) }])).toEqual([theirs]);
  });
  it('knows a mark by its place, however it was sent', () => {
    const short = { kind: 'word', x: 0.1, y: 0.2, text: 'gain' } as PhotoMark;
    expect(edited([{ ...short, x2: 0, y2: 0 }], [{ from: short, to: null }])).toEqual([]);
  });
  it('stays on the photo and to be seen', () => {
    expect(moved(mark(0.995), [0.01, 0], false)).toMatchObject({ x: 1, x2: 0.91 });
    const flat = { ...mark(0.89), x2: 0.9 };
    expect(moved(flat, [-0.01, 0], true)).toBe(flat);
  });
});
