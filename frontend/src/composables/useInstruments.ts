/** The meters that readings may come from: those that are typed from, and the simulated one. */
import { useQuery } from '@tanstack/vue-query';
import { computed } from 'vue';
import { api } from '@/api/client';

export const instrumentsAnswer = {
  queryKey: ['instruments'],
  queryFn: api.instruments,
  staleTime: Infinity,
};

export function useInstruments() {
  const { data } = useQuery(instrumentsAnswer);
  const all = computed(() => data.value ?? []);
  const typed = computed(() => all.value.filter((instrument) => !instrument.simulated));
  return { all, typed };
}
