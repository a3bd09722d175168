import { describe, expect, it } from 'vitest';
import type { StageLevel } from '@/api/client';
import { nearness } from '@/support/nearness';
import { buildSignalChain } from '@/support/signalChain';
import { wavePath } from '@/support/wave';

function stageLevel(
  stage: StageLevel['stage'],
  level: number,
  cleanMaximum: number,
  limiting = false,
): StageLevel {
  return {
    stage,
    name: stage,
    level_v: 10 ** (level / 20),
    clean_maximum_v: 10 ** (cleanMaximum / 20),
    level_dbv: level,
    clean_maximum_dbv: cleanMaximum,
    headroom_db: cleanMaximum - level,
    full_v: 10 ** (level / 20),
    full_dbv: level,
    full_headroom_db: cleanMaximum - level,
    limiting,
  };
}

describe('the signal chain', () => {
  const drawing = buildSignalChain([
    stageLevel('source', 12, 12),
    stageLevel('amplifier', 23, 25),
    stageLevel('speakers', 23, 23, true),
  ]);

  it('stands upright: the source at the foot, each stageLevel above the one before', () => {
    const tops = drawing.blocks.map((block) => block.y);
    expect(tops).toEqual([...tops].sort((a, b) => b - a));
    expect(Math.max(...drawing.blocks.map((block) => block.y + block.height))).toBeLessThanOrEqual(
      drawing.height,
    );
  });

  it('draws level and cleanMaximum on one scale: more dBV is wider, and no stageLevel is wider than its maximum', () => {
    const [source, amplifier, speakers] = drawing.blocks;
    expect(amplifier?.width).toBe(speakers?.width);
    expect(source?.width).toBeLessThan(amplifier?.width ?? 0);
    for (const block of drawing.blocks) expect(block.maximum.width).toBeGreaterThan(block.width);
    const room = (block?: (typeof drawing.blocks)[number]) => (block ? block.maximum.width - block.width : 0);
    expect(room(amplifier)).toBeGreaterThan(room(speakers));
    expect(room(speakers)).toBeCloseTo(room(source));
  });

  it('keeps inside its drawing', () => {
    for (const { maximum } of drawing.blocks) {
      expect(maximum.x).toBeGreaterThanOrEqual(0);
      expect(maximum.x + maximum.width).toBeLessThanOrEqual(drawing.width);
    }
    expect(drawing.top).toBeGreaterThanOrEqual(16);
  });

  it('does not divide by nothing when every level is the same', () => {
    const flat = buildSignalChain([stageLevel('source', 5, 5), stageLevel('amplifier', 5, 5)]);
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
