import { describe, expect, it } from 'vitest';
import type { PathPlan } from '@/api/client';
import { buildOverview } from '@/support/overview';

const stageLevel = (stage: string, level: number, cleanMaximum: number, full = level) => ({
  stage,
  level_dbv: level,
  full_dbv: full,
  clean_maximum_dbv: cleanMaximum,
  full_headroom_db: cleanMaximum - full,
  limiting: stage === 'speakers',
});
const path = (name: string, ...stageLevels: ReturnType<typeof stageLevel>[]) =>
  ({ path: name.toLowerCase(), name, stage_levels: stageLevels }) as unknown as PathPlan;
const PLAIN = [stageLevel('source', 12, 12), stageLevel('amplifier', 24, 25), stageLevel('speakers', 24, 24)];

describe('the overview', () => {
  it('puts every path on one scale', () => {
    const { columns, base } = buildOverview(
      [path('Front', ...PLAIN), path('Sub', stageLevel('source', 12, 12))],
      800,
      () => 'R',
    );
    const [front, sub] = columns;
    // The same level has the same height wherever it stands.
    expect(front?.bars[0]?.y).toBe(sub?.bars[0]?.y);
    expect(front?.bars[1]?.y).toBeLessThan(front?.bars[0]?.y ?? 0);
    expect(front?.bars.every((bar) => Math.abs(bar.y + bar.height - base) < 1e-9)).toBe(true);
  });

  it('marks what goes past its cleanMaximum at full scale, not what just reaches it', () => {
    const { columns } = buildOverview(
      [path('Mid', stageLevel('source', 12, 12), stageLevel('processor', 12, 12, 15.8))],
      800,
      () => '',
    );
    expect(columns[0]?.bars.map((bar) => bar.over)).toEqual([false, true]);
  });

  it('stands paths of one source on one foot, and numbers those whose names have no room', () => {
    const many = Array.from({ length: 64 }, (_, index) => path(`Midrange ${index}`, ...PLAIN));
    const { columns, feet } = buildOverview(many, 1200, (key) => (key.endsWith('0') ? 'Radio' : 'Player'));
    expect(columns[41]?.label).toBe('42');
    expect(feet.filter((foot) => foot.label === 'Radio')).toHaveLength(7);
    const last = columns.at(-1);
    expect((last?.x ?? 0) + (last?.width ?? 0)).toBeLessThanOrEqual(1200.5);
  });
});
