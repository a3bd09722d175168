/** The picture of a system: a column for every path, a row for every stage, and a part that paths share laid once. */
import type { Amplifier, Chain, Load, Source, Stated } from '@/api/client';
import { formatValue } from './quantity';
import type { Part } from './refusals';

const ohms = (value: number | null | undefined) => (value == null ? '? Ω' : formatValue(value, 'Ω', 3));
const watts = (value: number | null | undefined) => (value == null ? '? W' : formatValue(value, 'W', 3));

export type PartBlock = {
  key: string;
  part: Part;
  /** The path that is opened with it: the first of those that it spans. */
  path: number;
  /** Every path that it belongs to. */
  paths: number[];
  /** Where its values stand in the sheet: `loads.front.`. */
  place: string;
  row: number;
  column: number;
  span: number;
  name: string;
  figure: string;
};
export type SystemGrid = { order: number[]; rows: number; blocks: PartBlock[] };

type Cell = Omit<PartBlock, 'path' | 'paths' | 'row' | 'column' | 'span'>;

/** Columns in the order that keeps what is shared side by side; rows from the speakers down to the source. */
export function buildSystemGrid(chain: Chain): SystemGrid {
  const order = together(chain.paths);
  const deepest = Math.max(0, ...chain.paths.map((path) => path.through.length));
  // Where an amplifier has sections, it is a row of its own below them.
  const divided = chain.amplifiers.some((amplifier) => amplifier.sections.length > 0);
  const columns = order.map((index) => cellsOf(chain, index, deepest, divided));
  const rows = 4 + deepest + (divided ? 1 : 0);
  const blocks: PartBlock[] = [];
  for (let row = 0; row < rows; row++) {
    for (let column = 0; column < columns.length; column++) {
      const cell = columns[column]?.[row];
      const path = order[column];
      if (!cell || path === undefined) continue;
      const last = blocks.at(-1);
      if (last?.row === row && last.key === cell.key && last.column + last.span === column) {
        last.span += 1;
        last.paths.push(path);
      } else blocks.push({ ...cell, path, paths: [path], row, column, span: 1 });
    }
  }
  return { order, rows, blocks };
}

/** The paths' numbers in their own order, but what shares source, stages between and output side by side. */
function together(paths: Chain['paths']): number[] {
  const keys = paths.map((path) => {
    const source = path.source;
    const through = [source, ...path.through].join(' ');
    return [source, through, `${through} ${path.output}`];
  });
  const ranks = keys.map((own, index) => [
    ...own.map((key, level) => keys.findIndex((other) => other[level] === key)),
    index,
  ]);
  return ranks
    .sort((first, other) => {
      const level = first.findIndex((rank, place) => rank !== other[place]);
      return (first[level] ?? 0) - (other[level] ?? 0);
    })
    .map((rank) => rank.at(-1) ?? 0);
}

/** One path from the speakers down to the source; null where it has no stage of that depth. */
function cellsOf(chain: Chain, index: number, deepest: number, divided: boolean): (Cell | null)[] {
  const path = chain.paths[index];
  const source = chain.sources.find((source) => source.id === path?.source);
  const output = source?.outputs.find((output) => output.id === path?.output);
  const load = chain.loads.find((load) => load.id === path?.load);
  const amplifier = chain.amplifiers.find((amplifier) => amplifier.id === path?.amplifier);
  if (!path || !load || !amplifier || !source || !output) return [];
  const between = [...path.through].reverse().map((id) => betweenOf(chain, id));
  const spare = Array.from({ length: deepest - between.length }, () => null);
  return [
    loadOf(load),
    ...amplifierOf(amplifier, path.section, divided),
    ...between,
    ...spare,
    outputOf(source, output),
    sourceOf(source),
  ];
}

const loadOf = (load: Load): Cell => ({
  key: `load ${load.id}`,
  part: 'speakers',
  place: `loads.${load.id}.`,
  name: load.name || 'Speakers',
  figure: `${load.count > 1 ? `${load.count} × ` : ''}${ohms(load.impedance_ohm)} · ${watts(load.power_w)}`,
});

function amplifierOf(
  amplifier: Amplifier,
  used: string | null | undefined,
  divided: boolean,
): (Cell | null)[] {
  const number = amplifier.sections.findIndex((section) => section.id === used);
  const section = amplifier.sections[number];
  const rating = section?.ratings[0] ?? amplifier.ratings[0];
  const figure = rating ? `${watts(rating.power_w)} into ${ohms(rating.load_ohm)}` : 'watts not known';
  const whole: Cell = {
    key: `amplifier ${amplifier.id}`,
    part: 'amplifier',
    place: `amplifiers.${amplifier.id}.`,
    name: amplifier.name || 'Amplifier',
    figure,
  };
  if (!section) return divided ? [whole, null] : [whole];
  const own: Cell = {
    key: `section ${amplifier.id} ${section.id}`,
    part: 'amplifier',
    place: `amplifiers.${amplifier.id}.sections.${section.id}.`,
    name: section.name || `Section ${number + 1}`,
    figure,
  };
  return [own, { ...whole, figure: `${amplifier.sections.length} sections` }];
}

function betweenOf(chain: Chain, id: string): Cell {
  const processor = chain.processors.find((processor) => processor.id === id);
  return {
    key: `between ${id}`,
    part: 'between',
    place: `processors.${id}.`,
    name: processor?.name || (processor?.kind === 'converter' ? 'Converter' : 'Processor'),
    figure: processor ? `up to ${formatValue(processor.highest_output_v, 'V', 3)}` : '',
  };
}

const outputOf = (source: Source, output: Source['outputs'][number]): Cell => ({
  key: `output ${source.id} ${output.id}`,
  part: 'source',
  place: `sources.${source.id}.outputs.${output.id}.`,
  name: output.name || 'Output',
  figure: rated(output.rated),
});

const sourceOf = (source: Source): Cell => ({
  key: `source ${source.id}`,
  part: 'source',
  place: `sources.${source.id}.`,
  name: source.name || 'Source',
  figure: `0 to ${source.top_volume}`,
});

const rated = (rating: Stated) =>
  rating.volts != null
    ? formatValue(rating.volts, 'V', 3)
    : rating.watts != null
      ? watts(rating.watts)
      : 'volts not known';

/** Where a block stands: its row, and the column it begins in. The row above the blocks has the paths' names. */
type Seat = Pick<PartBlock, 'row' | 'column'>;
export const NAMES = -1;

/** What an arrow key leads to from a block, or from a path's name: the next one that way, over what is empty. */
export function neighbour(grid: SystemGrid, from: Seat, key: string): Seat | null {
  const step: Record<string, [number, number]> = {
    ArrowUp: [-1, 0],
    ArrowDown: [1, 0],
    ArrowLeft: [0, -1],
    ArrowRight: [0, 1],
  };
  const [down, across] = step[key] ?? [0, 0];
  if (!down && !across) return null;
  // Along a row a wide block is left at its other end.
  const wide = grid.blocks.find((block) => block.row === from.row && block.column === from.column)?.span ?? 1;
  let row = from.row + down;
  let column = from.column + (across > 0 ? wide : across);
  while (row >= NAMES && row < grid.rows && column >= 0 && column < grid.order.length) {
    const found = seatAt(grid, row, column);
    if (found) return found;
    row += down;
    column += across;
  }
  return null;
}

function seatAt(grid: SystemGrid, row: number, column: number): Seat | null {
  if (row === NAMES) return { row, column };
  const seat = grid.blocks.find(
    (block) => block.row === row && column >= block.column && column < block.column + block.span,
  );
  return seat ? { row, column: seat.column } : null;
}
