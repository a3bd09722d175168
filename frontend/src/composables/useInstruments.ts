/** The meters that readings may come from: those that are typed from, and the simulated one. */
import { useQuery } from '@tanstack/vue-query';
import { computed } from 'vue';
import { api } from '@/api/client';

export function useInstruments() {
  const { data } = useQuery({ queryKey: ['instruments'], queryFn: api.instruments, staleTime: Infinity });
  const all = computed(() => data.value ?? []);
  const typed = computed(() => all.value.filter((one) => !one.simulated));
  return { all, typed };
}
