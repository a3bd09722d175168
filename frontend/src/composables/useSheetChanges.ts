/** Calls back at every change of a sheet, at once. Each part is watched apart, so a change looks through its part only. */
import { effectScope, onScopeDispose, type Ref, watch } from 'vue';
import type { JobSheet } from '@/api/client';

const isObject = (one: unknown): one is object => one !== null && typeof one === 'object';

/** The parts of a sheet. Reading them tracks the lists, so a part that comes or goes is noticed; its fields are not read. */
const partsOf = (sheet: JobSheet): object[] =>
  Object.values(sheet)
    .flatMap((one: unknown) => (isObject(one) && !Array.isArray(one) ? Object.values(one).flat() : [one]))
    .filter(isObject);

export function useSheetChanges(sheet: Ref<JobSheet | null>, changed: () => void): void {
  let parts = effectScope(true);
  watch(
    () => (sheet.value ? partsOf(sheet.value) : []),
    (found) => {
      parts.stop();
      parts = effectScope(true);
      parts.run(() => found.forEach((one) => watch(one, changed, { deep: true, flush: 'sync' })));
      changed();
    },
    { flush: 'sync' },
  );
  onScopeDispose(() => parts.stop());
}
