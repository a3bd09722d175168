/**
 * Everything taken in the run goes through here: kept on this device first, then sent until the server has it.
 * Each record is named here, so sending twice is harmless; each is its own entry in storage, so two tabs don't
 * overwrite one another's. IndexedDB says when an entry is really kept; localStorage loses what was written just
 * before a tab is closed on a busy machine.
 */
import type { QueryClient } from '@tanstack/vue-query';
import { createStore, del, set, values } from 'idb-keyval';
import { computed, readonly, ref } from 'vue';
import { api, type NewMark, type NewReading, Refusal } from '@/api/client';
import { broughtUp } from '@/support/olderRecords';
import { askAgain } from '@/support/refetch';

type Sent =
  | { kind: 'reading'; body: NewReading }
  | { kind: 'mark'; body: NewMark }
  | { kind: 'strike'; record: string; reason: string };
type Waiting = Sent & { key: string; job: string; at: number };
type Listed = Waiting & { kept: boolean };

const RETRY_MS = 1500;

const store = createStore('rook-outbox', 'records');

const waiting = ref<Listed[]>([]);
const refused = ref<{ key: string; sentence: string }[]>([]);
let flushing = false;
let client: QueryClient | null = null;

/** Reads what an earlier page left behind and starts sending. */
export async function openOutbox(queryClient: QueryClient): Promise<void> {
  client = queryClient;
  // A device that keeps nothing (a private window, a full disk) has nothing to give back.
  const kept = await values<string>(store).catch(() => []);
  const left = kept.map((text) => ({ ...broughtUp<Waiting>(JSON.parse(text)), kept: true }));
  waiting.value = [...left, ...waiting.value].sort((a, b) => a.at - b.at);
  await flush();
}

export function useOutbox(job: () => string) {
  return {
    waiting: computed(() => waiting.value.filter((one) => one.job === job())),
    kept: computed(() => waiting.value.filter((one) => one.job === job() && one.kept).length),
    refused: readonly(refused),
    put: (sent: Sent) => put(job(), sent),
    dismiss: (key: string) => (refused.value = refused.value.filter((one) => one.key !== key)),
  };
}

async function put(job: string, sent: Sent): Promise<void> {
  const one: Waiting = { ...sent, key: crypto.randomUUID(), job, at: Date.now() };
  waiting.value.push({ ...one, kept: false });
  await set(one.key, JSON.stringify(one), store).then(
    () => waiting.value.forEach((other) => (other.kept ||= other.key === one.key)),
    () => undefined,
  );
  await flush();
}

function done(one: Waiting): void {
  waiting.value = waiting.value.filter((other) => other.key !== one.key);
  del(one.key, store).catch(() => undefined);
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
      if (client) await askAgain(client, ['run', one.job]);
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
