import { useQuery, useQueryClient } from '@tanstack/vue-query';
import { computed } from 'vue';
import { api } from '@/api/client';
import { useDoor } from './useDoor';
import { useTrying } from './useTrying';

const EVERY_MS = 60_000;

/** Acts that opened a way in and that the owner hasn't seen; nothing for everybody else. */
export function useWaysIn() {
  const { person, away, may } = useDoor();
  const queries = useQueryClient();
  const { data } = useQuery({
    queryKey: computed(() => ['ways in', person.value?.id]),
    queryFn: api.newWaysIn,
    enabled: computed(() => Boolean(person.value) && !away.value && may('people')),
    refetchInterval: EVERY_MS,
  });
  const acts = computed(() => data.value ?? []);
  const { trouble, trying } = useTrying();
  const seen = () =>
    trying(async () => {
      const newest = acts.value[0];
      if (!newest) return;
      await api.sawWaysIn(newest.number);
      await queries.invalidateQueries({ queryKey: ['ways in'] });
    });
  return { acts, trouble, seen };
}
