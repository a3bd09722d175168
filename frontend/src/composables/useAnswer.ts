/** Asks the server to calculate from typed values: again at each change; the newest answer counts. */
import { ref, shallowRef, watch } from 'vue';
import { Refusal } from '@/api/client';

/** `ask` gives nothing while something is still missing; `trouble` says why there is no answer. */
export function useAnswer<T>(values: () => unknown, ask: () => Promise<T> | undefined) {
  const answer = shallowRef<T>();
  const trouble = ref('');
  let newest = 0;
  watch(
    values,
    async () => {
      const own = ++newest;
      const settle = (found: T | undefined, why: string) => {
        if (own !== newest) return;
        answer.value = found;
        trouble.value = why;
      };
      try {
        settle(await ask(), '');
      } catch (problem) {
        if (!(problem instanceof Refusal)) throw problem;
        settle(undefined, problem.message);
      }
    },
    { deep: true },
  );
  return { answer, trouble };
}
