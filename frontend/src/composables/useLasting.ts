/** A number that is told only when it lasts: what is over in a moment would flash. */
import { ref, type Ref, watch } from 'vue';

const LASTS_MS = 1200;

/** The number of `now`, or 0 until it has been above 0 for a while. */
export function useLasting(now: () => number): Ref<number> {
  const told = ref(0);
  let timer: number | undefined;
  watch(
    now,
    (number) => {
      if (number === 0) {
        window.clearTimeout(timer);
        timer = undefined;
        told.value = 0;
      } else if (told.value) told.value = number;
      else timer ??= window.setTimeout(() => (told.value = now()), LASTS_MS);
    },
    { immediate: true },
  );
  return told;
}
