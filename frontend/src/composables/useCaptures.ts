/** A job's captures: what is kept, what is being sent, and what could not be sent and waits to be tried again. */
import { useQuery, useQueryClient } from '@tanstack/vue-query';
import { computed, type Ref, ref } from 'vue';
import { api, type Capture, Refusal, sendCapture, type Told } from '@/api/client';
import { usePreferences } from './usePreferences';

export type Sending = { told: Told; file: Blob; share: number; sentence: string; passing: boolean };

export function useCaptures(job: Ref<string>) {
  const { data, error } = useQuery({
    queryKey: computed(() => ['captures', job.value]),
    queryFn: () => api.captures(job.value),
  });
  return { list: data, error, ...useCaptureSender(job) };
}

export function useCaptureSender(job: Ref<string>) {
  const queries = useQueryClient();
  const preferences = usePreferences();
  const sending = ref<Sending[]>([]);

  async function send(
    file: Blob,
    name: string,
    more: Pick<Told, 'full_scale_v' | 'expect_hz'>,
  ): Promise<Capture | null> {
    const told = {
      id: crypto.randomUUID(),
      name: name.slice(0, 80) || 'capture',
      taken_at: new Date().toISOString(),
      by: preferences.value.name,
      ...more,
    };
    sending.value.push({ told, file, share: 0, sentence: '', passing: false });
    return attempt(told.id);
  }

  /** Sends what waits under this name; the name keeps a second try from being kept twice. */
  async function attempt(id: string): Promise<Capture | null> {
    const one = sending.value.find((other) => other.told.id === id);
    if (!one) return null;
    Object.assign(one, { share: 0, sentence: '', passing: false });
    try {
      const kept = await sendCapture(job.value, one.file, one.told, (share) => (one.share = share));
      dismiss(id);
      await queries.invalidateQueries({ queryKey: ['captures', job.value] });
      return kept;
    } catch (problem) {
      if (!(problem instanceof Refusal)) throw problem;
      one.sentence = problem.status
        ? problem.message
        : 'The server can’t be reached. The file waits here: try again.';
      one.passing = problem.passing;
      return null;
    }
  }

  function dismiss(id: string): void {
    sending.value = sending.value.filter((one) => one.told.id !== id);
  }

  /** What the simulated scope shows now, kept like any other export; gives what it came to, in words. */
  async function keepBench(name: string): Promise<string> {
    try {
      const kept = await send(await api.benchScope(job.value), name, {});
      return kept ? `Kept: ${kept.headline}` : (sending.value.at(-1)?.sentence ?? '');
    } catch (problem) {
      if (!(problem instanceof Refusal)) throw problem;
      return problem.message;
    }
  }

  return { sending, send, attempt, dismiss, keepBench };
}
