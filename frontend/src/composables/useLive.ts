/** The live channel of a job: reloads what changed elsewhere, and hands on what the meter shows. */
import { useQueryClient } from '@tanstack/vue-query';
import { onScopeDispose, type Ref, ref, watch } from 'vue';
import type { MeterEvent } from '@/api/client';
import { askAgain } from '@/support/refetch';

const RECONNECT_MS = 1500;

/** `step` names the step whose target the meter is held against; null means that no meter is wanted. */
export function useLive(job: Ref<string>, step: Ref<string | null>) {
  const queries = useQueryClient();
  const meter = ref<MeterEvent | null>(null);
  let source: EventSource | null = null;
  let timer = 0;

  function connect(): void {
    close();
    const wanted = step.value ? `?meter=true&step=${encodeURIComponent(step.value)}` : '';
    source = new EventSource(`/api/jobs/${job.value}/live${wanted}`);
    source.addEventListener('changed', (event) => {
      const own = ['bench', 'captures'].includes(String(event.data));
      void askAgain(queries, [own ? event.data : 'run', job.value]);
      if (event.data === 'all') void queries.invalidateQueries();
    });
    source.addEventListener('meter', (event) => (meter.value = JSON.parse(event.data) as MeterEvent));
    source.addEventListener('trouble', () => (meter.value = null));
    source.addEventListener('error', () => {
      // A browser gives up for good on some errors; this doesn't.
      meter.value = null;
      close();
      timer = window.setTimeout(connect, RECONNECT_MS);
    });
  }

  function close(): void {
    window.clearTimeout(timer);
    source?.close();
    source = null;
  }

  watch(
    [job, step],
    () => {
      meter.value = null;
      connect();
    },
    { immediate: true },
  );
  onScopeDispose(close);
  return { meter };
}
