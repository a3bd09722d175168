/** The simulated bench of a job: its knobs as they stand, turned at once and saved behind. */
import { useQuery, useQueryClient } from '@tanstack/vue-query';
import { computed, type Ref } from 'vue';
import { api, type BenchState, type BenchView } from '@/api/client';

export function useBench(job: Ref<string>, wanted: Ref<boolean>) {
  const queries = useQueryClient();
  const key = computed(() => ['bench', job.value]);
  const { data: bench } = useQuery({ queryKey: key, queryFn: () => api.bench(job.value), enabled: wanted });
  let sending = false;
  let next: BenchState | null = null;

  function turn(knobs: Partial<BenchState>): void {
    if (!bench.value) return;
    const state = { ...bench.value.state, ...knobs };
    queries.setQueryData<BenchView>(key.value, { ...bench.value, state });
    next = state;
    void send();
  }

  /** Sends the newest state only: a knob dragged fast leaves most of its positions behind. */
  async function send(): Promise<void> {
    if (sending) return;
    sending = true;
    try {
      while (next) {
        const state = next;
        next = null;
        const answer = await api.turnBench(job.value, state);
        if (!next) queries.setQueryData<BenchView>(key.value, answer);
      }
    } catch {
      // The connection mark says so; the bench is asked again.
      next = null;
      void queries.invalidateQueries({ queryKey: key.value });
    } finally {
      sending = false;
    }
  }

  return { bench, turn };
}
