/** A job's captures: what is kept, and what is on its way, which waits on this device as readings do. */
import { useQuery } from '@tanstack/vue-query';
import { computed, type Ref } from 'vue';
import { api, type Capture, Refusal, type Told } from '@/api/client';
import type { Listed } from '@/outbox/entry';
import { DEVICE } from '@/support/device';
import { entriesOf, letGo, useOutbox } from './useOutbox';
import { usePreferences } from './usePreferences';

type More = Pick<Told, 'full_scale_v' | 'expect_hz'>;

/** A file on its way, or refused. */
export type Sending = Listed & { kind: 'capture' };

export function useCaptures(job: Ref<string>) {
  const { data, error } = useQuery({
    queryKey: computed(() => ['captures', job.value]),
    queryFn: () => api.captures(job.value),
  });
  const sending = computed(() =>
    entriesOf(job.value).filter((entry): entry is Sending => entry.kind === 'capture' && !entry.sent),
  );
  return { list: data, error, sending, ...useCaptureSender(job) };
}

export function useCaptureSender(job: Ref<string>) {
  const outbox = useOutbox(() => job.value);
  const preferences = usePreferences();

  const toldOf = (name: string, more: More): Told => ({
    id: crypto.randomUUID(),
    name: name.slice(0, 80) || 'capture',
    taken_at: new Date().toISOString(),
    by: preferences.value.name,
    device: DEVICE,
    ...more,
  });
  const put = (file: Blob, told: Told) =>
    outbox.putFile({ kind: 'capture', told }, file, { vehicle: '', step: told.name });

  /** Resolves with what it came to once the server has it, with null when it is refused. */
  const send = (file: Blob, name: string, more: More) => put(file, toldOf(name, more));

  /** Has text judged; gives why it wasn't, and then the text is the page's again, not the device's. */
  async function sendText(text: string, more: More): Promise<Capture | string> {
    const told = toldOf('typed numbers', more);
    const kept = await put(new Blob([text]), told);
    if (kept) return kept;
    const own = entriesOf(job.value).find((entry) => entry.kind === 'capture' && entry.told.id === told.id);
    if (own) await letGo(own.key);
    return own?.refused?.sentence ?? 'It was not sent.';
  }

  /** What the simulated scope shows now, kept like any other export; gives what it came to, in words. */
  async function keepBench(name: string): Promise<string> {
    try {
      const kept = await send(await api.benchScope(job.value), name, {});
      return kept ? `Saved: ${kept.headline}` : 'It could not be saved. See the waiting list.';
    } catch (problem) {
      if (!(problem instanceof Refusal)) throw problem;
      return problem.message;
    }
  }

  return { send, sendText, keepBench };
}
