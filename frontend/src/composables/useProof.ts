/** Before an act that lets somebody in or out: whoever is here shows that it is them. */
import { ref } from 'vue';
import { Refusal } from '@/api/client';

const asked = ref<(proved: boolean) => void>();

export function useProof() {
  /** Does what the server refuses to a page that may have been left open: once more after the password or PIN. */
  async function withProof(work: () => Promise<unknown>): Promise<void> {
    try {
      await work();
    } catch (problem) {
      if (!(problem instanceof Refusal) || problem.status !== 428) throw problem;
      const proved = await new Promise<boolean>((answer) => (asked.value = answer));
      if (!proved) throw problem;
      await work();
    }
  }
  function answer(proved: boolean): void {
    asked.value?.(proved);
    asked.value = undefined;
  }
  return { asked, withProof, answer };
}
