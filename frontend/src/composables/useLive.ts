/** The live channel of a job: reloads what changed elsewhere, and hands on what the meter shows. */
import { useQueryClient } from '@tanstack/vue-query';
import { until } from '@vueuse/core';
import { onScopeDispose, type Ref, ref, watch } from 'vue';
import type { Changed, MeterEvent, Metered, RunView } from '@/api/client';
import { type LiveEvent, onLive, watchLive } from '@/support/liveShare';
import { askAgain } from '@/support/refetch';

/** Nothing of what the channel tells: asked for by itself. */
const APART = new Set<unknown>(['health', 'door', 'instruments']);

/**
 * `step` names the step whose target the meter is held against, with ~ and a row where it asks for several, null when no
 * meter is wanted; while this page is `saving`, a new version may be its own.
 */
export function useLive(job: Ref<string>, step: Ref<string | null>, saving: Ref<boolean>) {
  const queries = useQueryClient();
  const meter = ref<MeterEvent | null>(null);

  watch(
    [job, step],
    () => {
      meter.value = null;
      watchLive([step.value ? `${job.value}~${step.value}` : job.value]);
    },
    { immediate: true },
  );
  onScopeDispose(onLive(heard));
  onScopeDispose(() => watchLive([]));

  function heard({ name, data }: LiveEvent): void {
    if (name === 'meter') {
      const told = JSON.parse(data) as Metered;
      const of = told.row ? `${told.step}~${told.row}` : told.step;
      if (told.job === job.value && of === step.value) meter.value = told.shows;
    } else if (name === 'changed') {
      const told = JSON.parse(data) as Changed;
      if (told.job === job.value) void changed(told.what);
    } else if (name === 'back') {
      void changed('all');
    } else {
      meter.value = null;
    }
  }

  /** `told` is what changed, and for a sheet its version. */
  async function changed(told: string): Promise<void> {
    const [what = 'all', version] = told.split(' ');
    if (version) {
      await until(saving).toBe(false);
      const known = queries.getQueryData<RunView>(['run', job.value])?.job.version ?? 0;
      if (known >= Number(version)) return;
    }
    if (what === 'all') return askAgain(queries, { predicate: (query) => !APART.has(query.queryKey[0]) });
    const own = ['bench', 'captures', 'photos', 'together', 'customer'].includes(what);
    await askAgain(queries, { queryKey: [own ? what : 'run', job.value] });
  }

  return { meter };
}
