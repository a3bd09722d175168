import { mount } from '@vue/test-utils';
import { afterEach, describe, expect, it } from 'vitest';
import CautionList from '@/components/CautionList.vue';
import { decimalMark, withMark } from '@/support/decimalMark';
import { formatSigned, formatValue, parseQuantity, steadyNumber } from '@/support/quantity';

afterEach(() => (decimalMark.value = '.'));

describe('the decimal mark', () => {
  it('changes the numbers of every text that a template shows, at once', async () => {
    const text = 'Proof at 1 kHz reads 16.42 V, limit 15.85. Turn the gain down.';
    const list = mount(CautionList, { props: { cautions: [{ key: 'proof', text }] } });
    expect(list.text()).toBe(text);
    decimalMark.value = ',';
    await list.vm.$nextTick();
    expect(list.text()).toBe('Proof at 1 kHz reads 16,42 V, limit 15,85. Turn the gain down.');
  });

  it.each(['192.168.1.20:8765', 'version 0.9.1', 'tone-2.5khz.wav', 'out.5', 'At 3. Then'])(
    'leaves %j as it is',
    (text) => {
      decimalMark.value = ',';
      expect(withMark(text)).toBe(text);
    },
  );

  it.each([1.234, 14.142, 0.5, 1234, 999.9])('reads what it shows: %d', (value) => {
    decimalMark.value = ',';
    expect(parseQuantity(formatValue(value, 'W', 6), 'watts')).toEqual({ value });
  });

  it('asks still where a point may part thousands', () => {
    decimalMark.value = ',';
    expect(parseQuantity('1.234', 'watts')).toHaveProperty('reason');
    expect(parseQuantity('1,234 W', 'watts')).toEqual({ value: 1.234 });
    expect([formatSigned(-0.25, 2), steadyNumber(0)]).toEqual(['−0,25', '0,000']);
  });
});
