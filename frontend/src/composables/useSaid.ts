/** What is told aloud of something that changes all the time: when it matters, and seldom. */
import { type Ref, ref, watch } from 'vue';

const LEAST_MS = 3000;

/** The words of `words` for a live region: they follow when `matters` changes, at most every three seconds. */
export function useSaid(matters: () => unknown, words: () => string): Ref<string> {
  const said = ref('');
  let last = -LEAST_MS;
  let timer: number | undefined;
  function say(): void {
    timer = undefined;
    last = performance.now();
    said.value = words();
  }
  watch(matters, () => {
    timer ??= window.setTimeout(say, Math.max(0, last + LEAST_MS - performance.now()));
  });
  return said;
}
