/** New parts as the core begins them. */
import { useQuery } from '@tanstack/vue-query';
import { api, type NewParts } from '@/api/client';
import { copyOf } from '@/support/ids';

export const newPartsAnswer = { queryKey: ['new-parts'], queryFn: api.newParts, staleTime: Infinity };

/** `asking` as long as they are on their way: a button that adds one would do nothing. */
export function useNewParts() {
  const { data, isLoading: asking } = useQuery(newPartsAnswer);

  /** A new part, or undefined while the server has not told what one begins with. */
  function fresh<K extends keyof NewParts>(kind: K): NewParts[K] | undefined {
    return data.value && copyOf(data.value[kind]);
  }

  return { fresh, asking };
}
