/** Work that this device could not keep: it lasts as long as this tab, so leaving the page asks first. */
import { computed, reactive } from 'vue';

const unkept = reactive(new Set<string>());

/** How many pieces of work are only in this tab. */
export const onlyHere = computed(() => unkept.size);
export const isOnlyHere = (key: string): boolean => unkept.has(key);

/** Notes whether the device has kept a piece of work; what the server has is no longer of this page. */
export function noteKept(key: string, kept: boolean): void {
  if (kept) unkept.delete(key);
  else unkept.add(key);
}

window.addEventListener('beforeunload', (event) => {
  if (unkept.size) event.preventDefault();
});
