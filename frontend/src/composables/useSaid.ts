/** What is told aloud of something that changes all the time: when it matters, and seldom. */
import { watchThrottled } from '@vueuse/core';
import { type Ref, ref } from 'vue';

const LEAST_MS = 3000;

/** The words of `words` for a live region: they follow when `matters` changes, at most every three seconds. */
export function useSaid(matters: () => unknown, words: () => string): Ref<string> {
  const said = ref('');
  watchThrottled(matters, () => (said.value = words()), { throttle: LEAST_MS, trailing: true });
  return said;
}
