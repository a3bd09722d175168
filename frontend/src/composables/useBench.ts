/** The simulated bench of a job: its knobs as they stand, turned at once and saved behind. */
import { useQuery, useQueryClient } from '@tanstack/vue-query';
import { computed, type Ref, ref, watch } from 'vue';
import { api, type BenchState, type BenchView } from '@/api/client';

export function useBench(job: Ref<string>, wanted: Ref<boolean>) {
  const queries = useQueryClient();
  const key = computed(() => ['bench', job.value]);
  const sending = ref(false);
  const { data } = useQuery({
    queryKey: key,
    queryFn: () => api.bench(job.value),
    // What others see of an earlier position must not turn a knob back that is being turned.
    enabled: () => wanted.value && !sending.value,
  });

  /** Knobs turned here, which the last answer may not show yet; also those turned before the first answer came. */
  const turned = ref<Partial<BenchState>>({});
  let unsent = false;
  const bench = computed<BenchView | undefined>(
    () => data.value && { ...data.value, state: { ...data.value.state, ...turned.value } },
  );

  function turn(knobs: Partial<BenchState>): void {
    turned.value = { ...turned.value, ...knobs };
    unsent = true;
    void send();
  }

  watch(data, () => {
    if (unsent) void send();
    else if (!sending.value) turned.value = {};
  });

  /** Sends the newest state only: a knob dragged fast leaves most of its positions behind. */
  async function send(): Promise<void> {
    if (sending.value || !bench.value) return;
    sending.value = true;
    void queries.cancelQueries({ queryKey: key.value });
    try {
      while (unsent) {
        unsent = false;
        const answer = await api.turnBench(job.value, bench.value.state);
        if (!unsent) queries.setQueryData<BenchView>(key.value, answer);
      }
    } catch {
      // The connection mark says so; the bench is asked again.
      unsent = false;
      turned.value = {};
      void queries.invalidateQueries({ queryKey: key.value });
    } finally {
      sending.value = false;
    }
  }

  return { bench, turn, sending };
}
