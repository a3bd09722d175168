/** A live value that is asked for while the meter still moves is taken once it rests. */
import { computed, shallowRef, watch } from 'vue';

/** `settling` tells whether it moves; what was asked for is forgotten when `about` changes. */
export function useWhenSteady(settling: () => boolean, about: () => unknown) {
  const asked = shallowRef<(() => void) | null>(null);
  watch(settling, (moves) => {
    const act = asked.value;
    if (moves || !act) return;
    asked.value = null;
    act();
  });
  watch(about, () => (asked.value = null));

  function whenSteady(act: () => void): void {
    if (settling()) asked.value = act;
    else act();
  }
  return { whenSteady, waits: computed(() => asked.value !== null) };
}
