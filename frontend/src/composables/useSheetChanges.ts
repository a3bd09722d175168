/** Calls back at every change of a sheet, at once. Each part is watched apart, so a change looks through its part only. */
import { effectScope, onScopeDispose, type Ref, watch } from 'vue';
import type { JobSheet } from '@/api/client';

const isObject = (value: unknown): value is object => value !== null && typeof value === 'object';

/** The parts of a sheet. Reading them tracks the lists, so a part that comes or goes is noticed; its fields are not read. */
const partsOf = (sheet: JobSheet): object[] =>
  Object.values(sheet)
    .flatMap((value: unknown) =>
      isObject(value) && !Array.isArray(value) ? Object.values(value).flat() : [value],
    )
    .filter(isObject);

export function useSheetChanges(sheet: Ref<JobSheet | null>, changed: () => void): void {
  let parts = effectScope(true);
  watch(
    () => (sheet.value ? partsOf(sheet.value) : []),
    (found) => {
      parts.stop();
      parts = effectScope(true);
      parts.run(() => found.forEach((value) => watch(value, changed, { deep: true, flush: 'sync' })));
      changed();
    },
    { flush: 'sync' },
  );
  onScopeDispose(() => parts.stop());
}
