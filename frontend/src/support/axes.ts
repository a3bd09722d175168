/** Scales and ticks for drawings on paper. */
import { formatNumber } from './quantity';

export type Axis = { from: number; to: number; log?: boolean };
export type Tick = { at: number; text: string };

/** Width of a figure as ticks are lettered, and the room between two of them. */
const LETTER_PX = 7;
const GAP_PX = 4;

/** Where `value` lies on `size` pixels. */
export function place(axis: Axis, size: number, value: number): number {
  const [from, to, at] = axis.log
    ? [Math.log(axis.from), Math.log(axis.to), Math.log(Math.max(value, Number.MIN_VALUE))]
    : [axis.from, axis.to, value];
  return ((at - from) / (to - from || 1)) * size;
}

/** Around `wanted` round numbers within the axis. */
export function evenTicks(from: number, to: number, wanted: number): number[] {
  const rough = (to - from) / Math.max(1, wanted);
  const decade = 10 ** Math.floor(Math.log10(rough));
  const step = [1, 2, 5, 10].map((size) => size * decade).find((size) => size >= rough) ?? rough;
  const first = Math.ceil(from / step - 1e-9);
  const last = Math.floor(to / step + 1e-9);
  return Array.from({ length: Math.max(0, last - first + 1) }, (_, index) => (first + index) * step);
}

/** The same with their figures as they are written. */
export function numberTicks(from: number, to: number, wanted: number): Tick[] {
  return evenTicks(from, to, wanted).map((at) => ({ at, text: formatNumber(at, 3).replace('-', '−') }));
}

/** 20, 50, 100 … with k for thousands. */
export function frequencyTicks(from: number, to: number): Tick[] {
  return [10, 20, 50, 100, 200, 500, 1000, 2000, 5000, 10000, 20000]
    .filter((at) => at >= from && at <= to)
    .map((at) => ({ at, text: at >= 1000 ? `${at / 1000}k` : String(at) }));
}

/** The ticks whose figures have room beside each other: powers of ten first, then the rest from the left. */
export function spaced(ticks: readonly Tick[], at: (value: number) => number): Tick[] {
  const power = (tick: Tick) => tick.at > 0 && Number.isInteger(Math.log10(tick.at));
  const kept: Tick[] = [];
  for (const tick of [...ticks].sort((tick, other) => Number(power(other)) - Number(power(tick)))) {
    const clear = (other: Tick) =>
      Math.abs(at(tick.at) - at(other.at)) >=
      (LETTER_PX * (tick.text.length + other.text.length)) / 2 + GAP_PX;
    if (kept.every(clear)) kept.push(tick);
  }
  return kept.sort((tick, other) => tick.at - other.at);
}

/** An SVG path through points; a null breaks it. */
export function linePath(points: ([number, number] | null)[]): string {
  let pen = 'M';
  return points
    .map((point) => {
      if (!point) {
        pen = 'M';
        return '';
      }
      const part = `${pen}${point[0].toFixed(1)} ${point[1].toFixed(1)}`;
      pen = 'L';
      return part;
    })
    .join('');
}

const DASHES = ['10 5', '3 4', '12 4 3 4', '1 5', '20 4'];

/** How the line of that number is dashed: several on one paper are told apart without colour. */
export const dashOf = (index: number): string => DASHES[index % DASHES.length] ?? '';
