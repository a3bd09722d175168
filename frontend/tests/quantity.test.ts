import { describe, expect, it } from 'vitest';
import cases from '../../tests/shared/typed_numbers.json';
import {
  formatDb,
  formatDoubt,
  formatValue,
  parseQuantity,
  type QuantityKind,
  steadyNumber,
} from '@/support/quantity';

describe('parseQuantity', () => {
  it.each(cases.accepted as [string, QuantityKind, number][])('reads %j as %s', (text, kind, value) => {
    const parsed = parseQuantity(text, kind);
    expect('value' in parsed ? parsed.value : parsed.reason).toBeCloseTo(value, 12);
  });

  it.each(cases.refused as [string, QuantityKind, string][])('refuses %j as %s', (text, kind, reason) => {
    const parsed = parseQuantity(text, kind);
    expect('reason' in parsed && parsed.reason).toContain(reason);
  });
});

describe('numbers as shown', () => {
  it.each([
    [-0.04, 1, '0.0 dB'],
    [-6.02, 1, '−6.0 dB'],
    [0.126, 2, '0.13 dB'],
    [12.5, 0, '13 dB'],
  ])('%d with %d decimals', (value, decimals, written) => expect(formatDb(value, decimals)).toBe(written));
  it.each([
    [14.142135, 'V', '14.14 V'],
    [60, 'W', '60 W'],
    [0.00001, 'V', '0.00001 V'],
    [1000, 'V', '1000 V'],
    [12345.6, 'W', '12346 W'],
    [0, 'V', '0 V'],
  ])('%d %s', (value, unit, shown) => expect(formatValue(value, unit)).toBe(shown));

  it('keeps its zeros on a display', () => {
    expect([1.5, 14.1, 150, 0, 0.04].map((value) => steadyNumber(value))).toEqual([
      '1.500',
      '14.10',
      '150.0',
      '0.000',
      '0.0400',
    ]);
  });

  it('says when a doubt is not known', () => {
    expect(formatDoubt(null)).toBe('± ?');
    expect(formatDoubt(0.1637)).toBe('± 0.16');
  });
});
