/** The tower's geometry: a stageLevel of stone per stage, its width the level in dBV, its coping the clean maximum. */
import type { StageLevel } from '@/api/client';

type Block = {
  stageLevel: StageLevel;
  x: number;
  y: number;
  width: number;
  height: number;
  /** The coping line: the clean maximum on the same scale. */
  coping: { x: number; y: number; width: number; height: number };
  /** Corner stones along both edges, long and short by turns. */
  quoins: { x: number; y: number; width: number; height: number }[];
};

export type Tower = {
  width: number;
  height: number;
  blocks: Block[];
  merlons: { x: number; width: number }[];
  top: number;
};

const WIDTH = 320;
const BLOCK = 64;
const COPING = 9;
const GAP = 3;
const CROWN = 26;
const NARROWEST = 0.46;

export function buildTower(stageLevels: StageLevel[]): Tower {
  const levels = stageLevels.flatMap((stageLevel) => [stageLevel.level_dbv, stageLevel.ceiling_dbv]);
  const lowest = Math.min(...levels);
  const highest = Math.max(...levels, lowest + 1);
  const widthOf = (dbv: number) =>
    WIDTH * (NARROWEST + ((dbv - lowest) / (highest - lowest)) * (0.96 - NARROWEST));
  const step = BLOCK + COPING + GAP;
  const height = CROWN + stageLevels.length * step;
  const blocks = stageLevels.map((stageLevel, index) => {
    const y = height - (index + 1) * step + COPING + GAP;
    const width = widthOf(stageLevel.level_dbv);
    const ceiling = Math.max(width, widthOf(stageLevel.ceiling_dbv)) + 8;
    return {
      stageLevel,
      x: (WIDTH - width) / 2,
      y,
      width,
      height: BLOCK,
      coping: { x: (WIDTH - ceiling) / 2, y: y - COPING, width: ceiling, height: COPING },
      quoins: quoins((WIDTH - width) / 2, y, width),
    };
  });
  const last = blocks.at(-1)?.coping ?? { x: 0, width: WIDTH, y: CROWN };
  const tooth = last.width / 7;
  const merlons = [0, 2, 4, 6].map((slot) => ({ x: last.x + slot * tooth, width: tooth }));
  return { width: WIDTH, height, blocks, merlons, top: last.y };
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
