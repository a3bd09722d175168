/** Geometry of what is drawn on a photo, in units of a thousandth of its width; the papers draw the same. */
import type { PhotoMark } from '@/api/client';

export const MARK_WIDE = 1000;
const HEAD = 34;
const TURN = (25 * Math.PI) / 180;

type Placed = Pick<PhotoMark, 'x' | 'y' | 'x2' | 'y2'>;

const pointsOf = ({ x, y, x2 = 0, y2 = 0 }: Placed, tall: number) => ({
  from: [x * MARK_WIDE, y * tall] as const,
  to: [x2 * MARK_WIDE, y2 * tall] as const,
});

/** Radius of a circle on a photo that is `tall` units high. */
export function radiusOf(mark: Placed, tall: number): number {
  const { from, to } = pointsOf(mark, tall);
  return Math.hypot(to[0] - from[0], to[1] - from[1]);
}

/** A line with two short ones at its head. */
export function arrowPath(mark: Placed, tall: number): string {
  const { from, to } = pointsOf(mark, tall);
  const back = Math.atan2(from[1] - to[1], from[0] - to[0]);
  const barb = (turn: number) =>
    `${to[0] + HEAD * Math.cos(back + turn)} ${to[1] + HEAD * Math.sin(back + turn)}`;
  return `M${from.join(' ')}L${to.join(' ')}M${barb(-TURN)}L${to.join(' ')}L${barb(TURN)}`;
}

/** One thing that was done to a drawing: a mark put there (from nothing), changed, or taken away (to nothing). */
export type MarkEdit = { from: PhotoMark | null; to: PhotoMark | null };
/** How far a key moves, in shares of the sides. */
export type Step = [number, number];

const places = ({ kind, x, y, x2 = 0, y2 = 0, text = '' }: PhotoMark) => [kind, x, y, x2, y2, text].join(' ');
export const isSameMark = (mark: PhotoMark, other: PhotoMark): boolean => places(mark) === places(other);

/**
 * Marks after edits. An edit that is made twice changes nothing more, and a mark that somebody else took away meanwhile
 * stays away.
 */
export function edited(marks: readonly PhotoMark[], edits: readonly MarkEdit[]): PhotoMark[] {
  return edits.reduce<PhotoMark[]>(
    (now, { from, to }) => {
      if (!from) return to && !now.some((mark) => isSameMark(mark, to)) ? [...now, to] : now;
      const index = now.findIndex((mark) => isSameMark(mark, from));
      return index < 0 ? now : [...now.slice(0, index), ...(to ? [to] : []), ...now.slice(index + 1)];
    },
    [...marks],
  );
}

/** A share within a side, as fine as it is kept. */
export const inside = (share: number): number => Math.min(1, Math.max(0, Math.round(share * 1e4) / 1e4));

/** A mark moved by a step, or its other end alone; the same where that would leave nothing to be seen. */
export function moved(mark: PhotoMark, [x, y]: Step, end: boolean): PhotoMark {
  const { x2 = 0, y2 = 0 } = mark;
  const other = { x2: inside(x2 + x), y2: inside(y2 + y) };
  const to = end
    ? { ...mark, ...other }
    : { ...mark, x: inside(mark.x + x), y: inside(mark.y + y), ...other };
  return to.kind !== 'word' && to.x === to.x2 && to.y === to.y2 ? mark : to;
}
