import { describe, expect, it } from 'vitest';
import type { StageLevel } from '@/api/client';
import { nearness } from '@/support/nearness';
import { buildTower } from '@/support/tower';
import { wavePath } from '@/support/wave';

function stageLevel(stage: StageLevel['stage'], level: number, ceiling: number, limiting = false): StageLevel {
  return {
    stage,
    name: stage,
    level_v: 10 ** (level / 20),
    ceiling_v: 10 ** (ceiling / 20),
    level_dbv: level,
    ceiling_dbv: ceiling,
    headroom_db: ceiling - level,
    full_v: 10 ** (level / 20),
    full_dbv: level,
    full_headroom_db: ceiling - level,
    limiting,
  };
}

describe('the tower', () => {
  const tower = buildTower([
    stageLevel('source', 12, 12),
    stageLevel('amplifier', 23, 25),
    stageLevel('speakers', 23, 23, true),
  ]);

  it('stands upright: the source at the foot, each stageLevel above the one before', () => {
    const tops = tower.blocks.map((block) => block.y);
    expect(tops).toEqual([...tops].sort((a, b) => b - a));
    expect(Math.max(...tower.blocks.map((block) => block.y + block.height))).toBeLessThanOrEqual(
      tower.height,
    );
  });

  it('draws level and ceiling on one scale: more dBV is wider, and no stageLevel is wider than its coping', () => {
    const [source, amplifier, speakers] = tower.blocks;
    expect(amplifier?.width).toBe(speakers?.width);
    expect(source?.width).toBeLessThan(amplifier?.width ?? 0);
    for (const block of tower.blocks) expect(block.coping.width).toBeGreaterThan(block.width);
    const room = (block?: (typeof tower.blocks)[number]) => (block ? block.coping.width - block.width : 0);
    expect(room(amplifier)).toBeGreaterThan(room(speakers));
    expect(room(speakers)).toBeCloseTo(room(source));
  });

  it('keeps inside its drawing', () => {
    for (const { coping } of tower.blocks) {
      expect(coping.x).toBeGreaterThanOrEqual(0);
      expect(coping.x + coping.width).toBeLessThanOrEqual(tower.width);
    }
    expect(tower.top).toBeGreaterThanOrEqual(16);
  });

  it('does not divide by nothing when every level is the same', () => {
    const flat = buildTower([stageLevel('source', 5, 5), stageLevel('amplifier', 5, 5)]);
    expect(flat.blocks.every((block) => Number.isFinite(block.width))).toBe(true);
  });
});

describe('the wave', () => {
  it('puts zero volts in the middle and full scale at the edge', () => {
    expect(wavePath([0, 1, 2], [0, 5, -5], 5, 100, 40)).toBe('M0.00 20.00L50.00 0.00L100.00 40.00');
  });
});

describe('the pitch', () => {
  it('rises as the value nears its target and never leaves two octaves', () => {
    const pitches = [-60, -24, -12, -3, -0.5, 0].map(nearness);
    expect(pitches).toEqual([...pitches].sort((a, b) => a - b));
    expect(pitches[0]).toBe(260);
    expect(pitches.at(-1)).toBe(1040);
  });
});
