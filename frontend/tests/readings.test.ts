import { describe, expect, it } from 'vitest';
import { formatReading } from '@/support/readings';

describe('a reading as it is listed', () => {
  it.each([
    [3.6, undefined, undefined, '3.6 V'],
    [3.6, 'ohms', undefined, '3.6 Ω'],
    [75, 'seconds', undefined, '75 s'],
    [-3, 'numbers', undefined, '−3 numbers'],
    [0, 'verdict', 'clipped', 'heard harsh'],
    [0, 'verdict', 'clean', 'heard clean'],
    [1, 'continuity', undefined, 'connected'],
    [0.5, 'position', undefined, 'knob 50 % up'],
  ] as const)('%s of %s', (value, quantity, seen, said) => {
    expect(formatReading(value, quantity, seen)).toBe(said);
  });
});
