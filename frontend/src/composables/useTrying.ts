/** Does what may be refused: what was refused and what was done, in words, for the screen to show. */
import { ref } from 'vue';
import { Refusal } from '@/api/client';
import { useProof } from './useProof';

export function useTrying() {
  const { withProof } = useProof();
  const trouble = ref('');
  const said = ref('');
  async function trying(work: () => Promise<unknown>, words = ''): Promise<boolean> {
    trouble.value = said.value = '';
    try {
      await withProof(work);
      said.value = words;
      return true;
    } catch (problem) {
      if (!(problem instanceof Refusal)) throw problem;
      trouble.value = problem.message;
      return false;
    }
  }
  return { trouble, said, trying };
}
