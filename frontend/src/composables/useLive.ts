/** The live channel of a job: reloads what changed elsewhere, and hands on what the meter shows. */
import { useQueryClient } from '@tanstack/vue-query';
import { until, useEventSource } from '@vueuse/core';
import { computed, type Ref, ref, watch } from 'vue';
import type { MeterEvent, RunView } from '@/api/client';
import { askAgain } from '@/support/refetch';

const RECONNECT_MS = 1500;

/**
 * `step` names the step whose target the meter is held against, null when no meter is wanted; while this page is
 * `saving`, a new version may be its own.
 */
export function useLive(job: Ref<string>, step: Ref<string | null>, saving: Ref<boolean>) {
  const queries = useQueryClient();
  const meter = ref<MeterEvent | null>(null);
  const address = computed(() => {
    const wanted = step.value ? `?meter=true&step=${encodeURIComponent(step.value)}` : '';
    return `/api/jobs/${job.value}/live${wanted}`;
  });
  const { eventSource } = useEventSource(address, [], { autoReconnect: { delay: RECONNECT_MS } });

  watch(
    eventSource,
    (source) => {
      meter.value = null;
      source?.addEventListener('changed', (event) => void changed(String(event.data)));
      source?.addEventListener('meter', (event) => (meter.value = JSON.parse(event.data) as MeterEvent));
      for (const trouble of ['trouble', 'error']) {
        source?.addEventListener(trouble, () => (meter.value = null));
      }
    },
    { immediate: true },
  );

  /** `told` is what changed, and for a sheet its version. */
  async function changed(told: string): Promise<void> {
    const [what = 'all', version] = told.split(' ');
    if (version) {
      await until(saving).toBe(false);
      const known = queries.getQueryData<RunView>(['run', job.value])?.job.version ?? 0;
      if (known >= Number(version)) return;
    }
    const own = ['bench', 'captures'].includes(what);
    await askAgain(queries, [own ? what : 'run', job.value]);
    if (what === 'all') await queries.invalidateQueries();
  }

  return { meter };
}
