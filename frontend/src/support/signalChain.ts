/** The drawing of a signal chain: a block for every stage, as wide as its level in dBV, and above it a bar as wide as its clean maximum. */
import type { StageLevel } from '@/api/client';

type Block = {
  stageLevel: StageLevel;
  x: number;
  y: number;
  width: number;
  height: number;
  /** The maximum line: the clean maximum on the same scale. */
  maximum: { x: number; y: number; width: number; height: number };
  /** Quoins along both edges, long and short by turns. */
  quoins: { x: number; y: number; width: number; height: number }[];
};

export type ChainDrawing = {
  width: number;
  height: number;
  blocks: Block[];
  marks: { x: number; width: number }[];
  top: number;
};

const WIDTH = 320;
const BLOCK = 64;
const MAXIMUM = 9;
const GAP = 3;
const CROWN = 26;
const NARROWEST = 0.46;

export function buildSignalChain(stageLevels: StageLevel[]): ChainDrawing {
  const levels = stageLevels.flatMap((stageLevel) => [stageLevel.level_dbv, stageLevel.clean_maximum_dbv]);
  const lowest = Math.min(...levels);
  const highest = Math.max(...levels, lowest + 1);
  const widthOf = (dbv: number) =>
    WIDTH * (NARROWEST + ((dbv - lowest) / (highest - lowest)) * (0.96 - NARROWEST));
  const step = BLOCK + MAXIMUM + GAP;
  const height = CROWN + stageLevels.length * step;
  const blocks = stageLevels.map((stageLevel, index) => {
    const y = height - (index + 1) * step + MAXIMUM + GAP;
    const width = widthOf(stageLevel.level_dbv);
    const across = Math.max(width, widthOf(stageLevel.clean_maximum_dbv)) + 8;
    return {
      stageLevel,
      x: (WIDTH - width) / 2,
      y,
      width,
      height: BLOCK,
      maximum: { x: (WIDTH - across) / 2, y: y - MAXIMUM, width: across, height: MAXIMUM },
      quoins: quoins((WIDTH - width) / 2, y, width),
    };
  });
  const last = blocks.at(-1)?.maximum ?? { x: 0, width: WIDTH, y: CROWN };
  const tooth = last.width / 7;
  const marks = [0, 2, 4, 6].map((slot) => ({ x: last.x + slot * tooth, width: tooth }));
  return { width: WIDTH, height, blocks, marks, top: last.y };
}

function quoins(x: number, y: number, width: number): Block['quoins'] {
  const height = BLOCK / 4;
  return [0, 1, 2, 3].flatMap((row) => {
    const size = row % 2 ? 5 : 9;
    const top = y + row * height;
    return [
      { x, y: top, width: size, height },
      { x: x + width - size, y: top, width: size, height },
    ];
  });
}

/** Width of a letter of the stageLevels' names, on average. */
const LETTER = 7.6;

/** As much of a name as fits into a width. */
export function fitting(name: string, width: number): string {
  const letters = Math.max(4, Math.floor(width / LETTER));
  return name.length <= letters ? name : `${name.slice(0, letters - 1).trimEnd()}…`;
}
