/**
 * Everything taken in the run goes through here: kept on this device first, then sent until the server has it.
 * Each record is named here, so sending twice is harmless; each is its own entry in storage, so two tabs don't
 * overwrite one another's.
 */
import type { QueryClient } from '@tanstack/vue-query';
import { computed, readonly, ref } from 'vue';
import { api, type NewMark, type NewReading, Refusal } from '@/api/client';

type Sent =
  | { kind: 'reading'; body: NewReading }
  | { kind: 'mark'; body: NewMark }
  | { kind: 'strike'; record: string; reason: string };
type Waiting = Sent & { key: string; job: string; at: number };

const PREFIX = 'rook.outbox.';
const RETRY_MS = 1500;

const waiting = ref<Waiting[]>([]);
const refused = ref<{ key: string; sentence: string }[]>([]);
let flushing = false;
let client: QueryClient | null = null;

/** Reads what an earlier page left behind and starts sending. */
export function openOutbox(queryClient: QueryClient): void {
  client = queryClient;
  const kept = Object.keys(localStorage)
    .filter((key) => key.startsWith(PREFIX))
    .map((key) => JSON.parse(localStorage.getItem(key) ?? 'null') as Waiting | null)
    .filter((one) => one !== null);
  waiting.value = kept.sort((a, b) => a.at - b.at);
  void flush();
}

export function useOutbox(job: () => string) {
  return {
    waiting: computed(() => waiting.value.filter((one) => one.job === job())),
    refused: readonly(refused),
    put: (sent: Sent) => put(job(), sent),
    dismiss: (key: string) => (refused.value = refused.value.filter((one) => one.key !== key)),
  };
}

function put(job: string, sent: Sent): void {
  const one: Waiting = { ...sent, key: crypto.randomUUID(), job, at: Date.now() };
  localStorage.setItem(PREFIX + one.key, JSON.stringify(one));
  waiting.value.push(one);
  void flush();
}

function done(one: Waiting): void {
  localStorage.removeItem(PREFIX + one.key);
  waiting.value = waiting.value.filter((other) => other.key !== one.key);
}

function send(one: Waiting): Promise<unknown> {
  if (one.kind === 'reading') return api.addReading(one.job, one.body);
  if (one.kind === 'mark') return api.addMark(one.job, one.body);
  return api.strike(one.job, one.record, one.reason);
}

async function flush(): Promise<void> {
  if (flushing) return;
  flushing = true;
  for (let one = waiting.value[0]; one; one = waiting.value[0]) {
    try {
      await send(one);
      // Counted as waiting until the run that is shown has it.
      await client?.invalidateQueries({ queryKey: ['run', one.job] });
      done(one);
    } catch (error) {
      if (error instanceof Refusal && !error.passing) {
        refused.value.push({ key: one.key, sentence: error.message });
        done(one);
      } else {
        await new Promise((resume) => setTimeout(resume, RETRY_MS));
      }
    }
  }
  flushing = false;
}
