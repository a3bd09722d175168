import { describe, expect, it } from 'vitest';
import type { PathPlan } from '@/api/client';
import { buildCastle } from '@/support/castle';

const stageLevel = (stage: string, level: number, ceiling: number, full = level) => ({
  stage,
  level_dbv: level,
  full_dbv: full,
  ceiling_dbv: ceiling,
  full_headroom_db: ceiling - full,
  limiting: stage === 'speakers',
});
const path = (name: string, ...stageLevels: ReturnType<typeof course>[]) =>
  ({ path: name.toLowerCase(), name, stageLevels }) as unknown as PathPlan;
const PLAIN = [stageLevel('source', 12, 12), stageLevel('amplifier', 24, 25), stageLevel('speakers', 24, 24)];

describe('the castle', () => {
  it('puts every path on one scale', () => {
    const { keeps, base } = buildCastle(
      [path('Front', ...PLAIN), path('Sub', stageLevel('source', 12, 12))],
      800,
      () => 'R',
    );
    const [front, sub] = keeps;
    // The same level has the same height wherever it stands.
    expect(front?.bars[0]?.y).toBe(sub?.bars[0]?.y);
    expect(front?.bars[1]?.y).toBeLessThan(front?.bars[0]?.y ?? 0);
    expect(front?.bars.every((bar) => Math.abs(bar.y + bar.height - base) < 1e-9)).toBe(true);
  });

  it('marks what goes past its ceiling at full scale, not what just reaches it', () => {
    const { keeps } = buildCastle(
      [path('Mid', stageLevel('source', 12, 12), stageLevel('processor', 12, 12, 15.8))],
      800,
      () => '',
    );
    expect(keeps[0]?.bars.map((bar) => bar.over)).toEqual([false, true]);
  });

  it('stands paths of one source on one foot, and numbers those whose names have no room', () => {
    const many = Array.from({ length: 64 }, (_, index) => path(`Midrange ${index}`, ...PLAIN));
    const { keeps, feet } = buildCastle(many, 1200, (key) => (key.endsWith('0') ? 'Radio' : 'Player'));
    expect(keeps[41]?.label).toBe('42');
    expect(feet.filter((one) => one.label === 'Radio')).toHaveLength(7);
    const last = keeps.at(-1);
    expect((last?.x ?? 0) + (last?.width ?? 0)).toBeLessThanOrEqual(1200.5);
  });
});
