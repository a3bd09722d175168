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
