/** New parts as the core begins them, and which of their figures nobody has confirmed. */
import { useQuery } from '@tanstack/vue-query';
import { api, type NewParts } from '@/api/client';
import { copyOf } from '@/support/ids';

type Kind = Exclude<keyof NewParts, 'not_confirmed'>;

export function useNewParts() {
  const { data } = useQuery({ queryKey: ['new-parts'], queryFn: api.newParts, staleTime: Infinity });

  /** A new part, or undefined while the server has not told what one begins with. */
  function fresh<K extends Kind>(kind: K): NewParts[K] | undefined {
    return data.value && copyOf(data.value[kind]);
  }

  /** What is to be said beside a figure that still is the one that the part came with. */
  function notConfirmed(part: Kind, field: string, value: number | null | undefined): string | undefined {
    const same = (one: NewParts['not_confirmed'][number]) =>
      one.part === part && one.field === field && one.value === value;
    return data.value?.not_confirmed.find(same)?.sentence;
  }

  return { fresh, notConfirmed };
}
