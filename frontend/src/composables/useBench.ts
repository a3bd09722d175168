/** The simulated bench of a job: its knobs as they stand, turned at once and saved behind. */
import { useQuery, useQueryClient } from '@tanstack/vue-query';
import { computed, type Ref, ref } from 'vue';
import { api, type BenchState, type BenchView } from '@/api/client';

export function useBench(job: Ref<string>, wanted: Ref<boolean>) {
  const queries = useQueryClient();
  const key = computed(() => ['bench', job.value]);
  const sending = ref(false);
  const { data: bench } = useQuery({
    queryKey: key,
    queryFn: () => api.bench(job.value),
    // What others see of an earlier position must not turn a knob back that is being turned.
    enabled: () => wanted.value && !sending.value,
  });
  let next: BenchState | null = null;

  function turn(knobs: Partial<BenchState>): void {
    if (!bench.value) return;
    next = { ...bench.value.state, ...knobs };
    void queries.cancelQueries({ queryKey: key.value });
    queries.setQueryData<BenchView>(key.value, { ...bench.value, state: next });
    if (!sending.value) void send();
  }

  /** Sends the newest state only: a knob dragged fast leaves most of its positions behind. */
  async function send(): Promise<void> {
    sending.value = true;
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
      sending.value = false;
    }
  }

  return { bench, turn };
}
