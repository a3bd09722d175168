import { afterEach, expect, it, vi } from 'vitest';
import { effectScope, ref } from 'vue';
import type { JobSheet } from '@/api/client';
import { useSheetChanges } from '@/composables/useSheetChanges';

const scope = effectScope();
afterEach(() => scope.stop());

it('hears every change once, however deep, and of parts that come later', () => {
  const path = (id: string) => ({ id, filters: [{ frequency_hz: 80 }] });
  const sheet = ref({
    note: '',
    choices: { target: 'both' },
    not_confirmed: [] as object[],
    chain: { paths: [path('front')], loads: [{ id: 'front', power_w: 60 }] },
  });
  const changed = vi.fn();
  scope.run(() => useSheetChanges(sheet as never, changed));
  const count = (change: () => void) => {
    changed.mockClear();
    change();
    return changed.mock.calls.length;
  };
  const { chain } = sheet.value;
  const at = <T>(parts: T[], place: number): T => parts[place] as T;
  expect(count(() => (sheet.value.note = 'later'))).toBe(1);
  expect(count(() => (sheet.value.choices.target = 'speakers'))).toBe(1);
  expect(count(() => (at(chain.loads, 0).power_w = 75))).toBe(1);
  expect(count(() => (at(at(chain.paths, 0).filters, 0).frequency_hz = 63))).toBe(1);
  expect(count(() => chain.paths.push(path('rear')))).toBeGreaterThan(0);
  expect(count(() => (at(at(chain.paths, 1).filters, 0).frequency_hz = 40))).toBe(1);
  expect(count(() => sheet.value.not_confirmed.push({ place: 'loads.front.power_w' }))).toBeGreaterThan(0);
  expect(count(() => (sheet.value = { ...sheet.value, note: 'another' }))).toBe(1);
  expect(count(() => (at(sheet.value.chain.loads, 0).power_w = 50))).toBe(1);
  expect((sheet.value as unknown as JobSheet).note).toBe('another');
});
