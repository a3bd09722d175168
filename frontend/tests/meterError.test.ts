import { describe, expect, it } from 'vitest';
import { corrected, errorInWords } from '@/support/meterError';

describe('the known error of a meter', () => {
  it('is taken off and the display is kept', () => {
    // 4.08 V on a display that is 2 % too high are 4 V.
    expect(corrected(4.08, 2)).toEqual({ value: 4, displayed: 4.08 });
    expect(corrected(3.8, -5).value).toBeCloseTo(4, 12);
  });
  it('of zero, or beyond all bounds, changes nothing and says nothing', () => {
    for (const percent of [0, 40, -40, Number.NaN]) {
      expect(corrected(4, percent)).toEqual({ value: 4, displayed: null });
      expect(errorInWords(percent)).toBe('');
    }
  });
  it('is said where volts are typed', () => {
    expect(errorInWords(-2)).toBe('Your meter shows 2 % too little: type its display, it is corrected.');
  });
});
