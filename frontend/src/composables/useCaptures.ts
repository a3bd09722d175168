/** A job's captures: what is kept, and what is on its way, which waits on this device as readings do. */
import { useQuery } from '@tanstack/vue-query';
import { computed, type Ref } from 'vue';
import { api, type Capture, Refusal, type Told } from '@/api/client';
import type { Listed } from '@/outbox/entry';
import { DEVICE } from '@/support/device';
import { entriesOf, useOutbox } from './useOutbox';
import { usePreferences } from './usePreferences';

/** A file on its way, or refused. */
export type Sending = Listed & { kind: 'capture' };

export function useCaptures(job: Ref<string>) {
  const { data, error } = useQuery({
    queryKey: computed(() => ['captures', job.value]),
    queryFn: () => api.captures(job.value),
  });
  const sending = computed(() =>
    entriesOf(job.value).filter((one): one is Sending => one.kind === 'capture' && !one.sent),
  );
  return { list: data, error, sending, ...useCaptureSender(job) };
}

export function useCaptureSender(job: Ref<string>) {
  const outbox = useOutbox(() => job.value);
  const preferences = usePreferences();

  /** Resolves with what it came to once the server has it, with null when it is refused. */
  function send(
    file: Blob,
    name: string,
    more: Pick<Told, 'full_scale_v' | 'expect_hz'>,
  ): Promise<Capture | null> {
    const told = {
      id: crypto.randomUUID(),
      name: name.slice(0, 80) || 'capture',
      taken_at: new Date().toISOString(),
      by: preferences.value.name,
      device: DEVICE,
      ...more,
    };
    return outbox.putFile({ kind: 'capture', told }, file, { vehicle: '', step: told.name });
  }

  /** What the simulated scope shows now, kept like any other export; gives what it came to, in words. */
  async function keepBench(name: string): Promise<string> {
    try {
      const kept = await send(await api.benchScope(job.value), name, {});
      return kept ? `Kept: ${kept.headline}` : 'It could not be kept: see what is waiting.';
    } catch (problem) {
      if (!(problem instanceof Refusal)) throw problem;
      return problem.message;
    }
  }

  return { send, keepBench };
}
