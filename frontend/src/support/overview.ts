/** The drawing of all paths: a group of bars for every path, a bar for every stage, on one scale of dBV. */
import type { StageLevel, PathPlan } from '@/api/client';

type Bar = {
  stageLevel: StageLevel;
  x: number;
  y: number;
  width: number;
  height: number;
  cleanMaximum: number;
  over: boolean;
  /** What it stands for; empty where there is no room to say it. */
  label: string;
};
type Column = { path: PathPlan; x: number; width: number; bars: Bar[]; label: string };
type Foot = { x: number; width: number; label: string };
export type Overview = {
  width: number;
  height: number;
  base: number;
  /** Where the paths' names stand below. */
  names: number;
  columns: Column[];
  /** The sources below the paths. */
  feet: Foot[];
  lines: { dbv: number; y: number }[];
};

const SCALE = 46;
const HEIGHT = 220;
const TOP = 12;
const FOOT = 46;
const BAR_NAMES = 18;
/** Room for the longest of the stages' names. */
const NAMED_PX = 68;
const STAGES: Record<StageLevel['stage'], string> = {
  source: 'source',
  processor: 'processor',
  amplifier: 'amplifier',
  speakers: 'speakers',
};
const LETTER = 8.2;

/** The whole system in `width`; `sourceOf` names what feeds a path. */
export function buildOverview(
  paths: readonly PathPlan[],
  width: number,
  sourceOf: (path: string) => string,
): Overview {
  const levels = paths.flatMap((path) =>
    path.stage_levels.flatMap((level) => [level.full_dbv, level.level_dbv, level.clean_maximum_dbv]),
  );
  const lowest = 10 * Math.floor((Math.min(...levels, 0) - 4) / 10);
  const highest = 10 * Math.ceil((Math.max(...levels, 10) + 1) / 10);
  const slot = (width - SCALE) / Math.max(1, paths.length);
  const most = Math.max(1, ...paths.map((path) => path.stage_levels.length));
  const named = (slot * 0.84) / most >= NAMED_PX;
  const height = HEIGHT + (named ? BAR_NAMES : 0);
  const base = HEIGHT - FOOT;
  const yOf = (dbv: number) => base - ((dbv - lowest) / (highest - lowest)) * (base - TOP);
  const columns = paths.map((path, index) => {
    const x = SCALE + index * slot;
    const room = slot * 0.84;
    const width = room / path.stage_levels.length;
    const bars = path.stage_levels.map((stageLevel, place) => ({
      stageLevel,
      x: x + place * width,
      y: yOf(stageLevel.level_dbv),
      width: Math.max(1, width - Math.min(2, width / 6)),
      height: Math.max(1, base - yOf(stageLevel.level_dbv)),
      cleanMaximum: yOf(stageLevel.clean_maximum_dbv),
      over: stageLevel.full_headroom_db < -0.05,
      label: named ? STAGES[stageLevel.stage] : '',
    }));
    const letters = Math.floor(slot / LETTER);
    const label =
      letters >= path.name.length
        ? path.name
        : letters >= 4
          ? `${path.name.slice(0, letters - 1)}…`
          : `${index + 1}`;
    return { path, x, width: slot, bars, label };
  });
  const feet: Foot[] = [];
  for (const column of columns) {
    const label = sourceOf(column.path.path);
    const last = feet.at(-1);
    if (last?.label === label) last.width += column.width;
    else feet.push({ x: column.x, width: column.width, label });
  }
  const lines = [];
  for (let dbv = lowest; dbv <= highest; dbv += 10) lines.push({ dbv, y: yOf(dbv) });
  return { width, height, base, names: named ? base + BAR_NAMES : base, columns, feet, lines };
}
