/**
 * Everything that is taken goes through here: kept on this device first, then sent until the server has it. An entry
 * leaves the device only when the server has said that it has it, or when a person lets it go; what the server won't
 * have stays in a list with the reason. Each record is named here, so sending twice is harmless. Of all open tabs one
 * sends for all; what the device couldn't keep is sent by the tab that has it.
 */
import type { QueryClient } from '@tanstack/vue-query';
import { computed, ref, watch } from 'vue';
import { api, type Capture, Refusal } from '@/api/client';
import {
  type About,
  type Entry,
  entryOf,
  isFile,
  type Listed,
  type Sent,
  type SentFile,
} from '@/outbox/entry';
import { Lanes } from '@/outbox/lanes';
import { send, verdict } from '@/outbox/send';
import * as store from '@/outbox/store';
import { installationKnown } from '@/support/device';
import { askAgain } from '@/support/refetch';
import { noteKept } from '@/support/onlyHere';
import { currentPerson } from '@/support/person';
import { channel, lead } from '@/support/tabs';
import { currentInstallation } from './useConnection';

const SHOW_AGAIN_MS = 600;
/** Statuses that every entry would get just now: nobody is there, or nothing behind it is. */
const AWAY = [0, 502, 503, 504];

const entries = ref<Listed[]>([]);
let client: QueryClient | null = null;
let leading = false;
const busy = { records: false, files: false };
const lanes = { records: new Lanes(), files: new Lanes() };
/** Who waits for what a file came to. */
const hopes = new Map<string, (kept: Capture | null) => void>();
const tell = channel<'changed'>('rook-outbox', () => void reload());

/** Reads what an earlier page left behind and starts sending. */
export async function openOutbox(queryClient: QueryClient): Promise<void> {
  client = queryClient;
  // What waits for its own server, or for the person who did it, goes on when that is back.
  watch([currentInstallation, currentPerson], () => {
    Object.values(lanes).forEach((lane) => lane.forget());
    flush();
  });
  await reload();
  void lead('rook-outbox').then(async () => {
    leading = true;
    await reload();
  });
}

export function useOutbox(job: () => string) {
  return {
    waiting: computed(() => waitingAnywhere.value.filter((entry) => entry.job === job())),
    put: (sent: Sent, about?: About) => put(job(), sent, about),
    putFile: (sent: SentFile, file: Blob, about?: About) => put(job(), sent, about, file),
  };
}

export const entriesOf = (job: string) => entries.value.filter((entry) => entry.job === job);
export const waitingAnywhere = computed(() => entries.value.filter((entry) => !entry.refused));
export const refusedAnywhere = computed(() => entries.value.filter((entry) => entry.refused));
/** Whether it waits for a server that isn't the one that answers now. */
export const isElsewheres = (entry: Entry): boolean =>
  currentInstallation.value !== null &&
  entry.installation !== null &&
  entry.installation !== currentInstallation.value;

/** Resolves, for a file, once it is on the server (with what it came to) or refused (with null). */
async function put(job: string, sent: Sent, about?: About, file?: Blob): Promise<Capture | null> {
  const installation = currentInstallation.value ?? installationKnown();
  const person = currentPerson.value;
  const entry: Entry = {
    ...sent,
    key: crypto.randomUUID(),
    job,
    at: Date.now(),
    installation,
    person,
    about,
  };
  entries.value.push({ ...entry, ready: false, kept: false, sent: false, share: 0 });
  const hope = file ? new Promise<Capture | null>((resolve) => hopes.set(entry.key, resolve)) : null;
  if (file) held.set(entry.key, file);
  await store.add(entry, file).then(
    (kept) => {
      update(entry.key, { ...kept, kept: true, ready: true });
      held.delete(entry.key);
    },
    () => {
      update(entry.key, { ready: true, fleeting: true });
      noteKept(entry.key, false);
    },
  );
  tell('changed');
  flush();
  return hope;
}

/** Files that the device couldn't keep: they last as long as the page. */
const held = new Map<string, Blob>();

/** The file of an entry that waits; undefined where neither this page nor the device has it. */
export const waitingFile = async (key: string): Promise<Blob | undefined> =>
  held.get(key) ?? (await store.fileOf(key));

function update(key: string, change: Partial<Listed>): void {
  const entry = entries.value.find((other) => other.key === key);
  if (entry) Object.assign(entry, change);
}

/** Takes in what other tabs changed; what they sent stays listed until this page shows it. */
async function reload(): Promise<void> {
  const kept = await store.all();
  const known = new Map(kept.map((entry) => [entry.key, entry]));
  const gone = new Set<string>();
  for (const entry of entries.value) {
    const now = known.get(entry.key);
    if (now) Object.assign(entry, now, { kept: true });
    else if (entry.kept && !entry.sent) {
      entry.sent = true;
      gone.add(entry.job);
    }
    if (hopes.has(entry.key) && (entry.sent || entry.refused)) void settleFor(entry);
    known.delete(entry.key);
  }
  const fresh = [...known.values()].map((entry) => ({
    ...entry,
    ready: true,
    kept: true,
    sent: false,
    share: 0,
  }));
  entries.value = [...entries.value, ...fresh];
  gone.forEach(showAgain);
  flush();
}

/** Another tab sent it, or was refused: who waits for it here is told what it came to. */
async function settleFor(entry: Listed): Promise<void> {
  const came =
    entry.kind === 'capture' && entry.sent ? api.capture(entry.job, entry.told.id) : Promise.resolve(null);
  settle(entry.key, await came.catch(() => null));
}

function flush(): void {
  Object.values(lanes).forEach((lane) => lane.wake());
  void work('records', (entry) => !isFile(entry));
  void work('files', isFile);
}

const isToSend = (entry: Listed): boolean => entry.ready && !entry.sent && !entry.refused;

/** Records don't wait behind a large file. */
async function work(lane: keyof typeof busy, own: (entry: Listed) => boolean): Promise<void> {
  if (busy[lane]) return;
  busy[lane] = true;
  for (;;) {
    const ready = entries.value.filter(
      (other) => own(other) && isToSend(other) && !isElsewheres(other) && (leading || !other.kept),
    );
    if (!ready.length) break;
    const next = lanes[lane].next(ready);
    if (next) await attempt(next, lanes[lane]);
    else await lanes[lane].pause(ready);
  }
  busy[lane] = false;
}

/** What is being sent just now, to be cut off where a person lets it go. */
const sendings = new Map<string, AbortController>();

/** Sends one; where it is to be tried again after a while it rests, and those of its lane with it. */
async function attempt(entry: Listed, lane: Lanes): Promise<void> {
  const cut = new AbortController();
  sendings.set(entry.key, cut);
  try {
    const kept = await send(entry, (share) => update(entry.key, { share }), held.get(entry.key), cut.signal);
    update(entry.key, { sent: true });
    noteKept(entry.key, true);
    held.delete(entry.key);
    await store.remove(entry.key);
    settle(entry.key, kept);
    tell('changed');
    showAgain(entry.job);
  } catch (error) {
    if (cut.signal.aborted) return;
    // A fault of this app's own must not stop what waits behind it.
    const fault = () => new Refusal(500, { status: 500, detail: `A fault in the app: ${String(error)}` });
    await answered(entry, error instanceof Refusal ? error : fault(), lane);
  } finally {
    sendings.delete(entry.key);
  }
}

async function answered(entry: Listed, refusal: Refusal, lane: Lanes): Promise<void> {
  const meaning = verdict(refusal, entry);
  if (meaning !== 'refused') lane.rest(entry);
  // A server that is away is away for every entry.
  if (AWAY.includes(refusal.status)) lane.restAll();
  if (meaning === 'wait') return;
  const change =
    meaning === 'failed'
      ? { failures: (entry.failures ?? 0) + 1 }
      : { refused: { status: refusal.status, sentence: refusal.message, at: Date.now() } };
  await alter(entry.key, change);
  if (meaning === 'refused') settle(entry.key, null);
}

/** Changes an entry, in the storage first: a list that is read meanwhile must not undo it here. */
async function alter(key: string, change: Partial<Entry>): Promise<void> {
  const entry = entries.value.find((other) => other.key === key);
  if (!entry) return;
  await store.change({ ...entryOf(entry), ...change } as Entry).catch(() => undefined);
  update(key, change as Partial<Listed>);
  tell('changed');
}

function settle(key: string, kept: Capture | null): void {
  hopes.get(key)?.(kept);
  hopes.delete(key);
}

/** Jobs whose screens are to be asked for again, and those that were just now: many records in a row share one. */
const due = new Set<string>();
const recently = new Set<string>();

function showAgain(job: string): void {
  if (due.has(job)) return;
  due.add(job);
  setTimeout(() => void show(job), recently.has(job) ? SHOW_AGAIN_MS : 0);
}

/** Only once the screens have it, what the server has leaves the list. */
async function show(job: string): Promise<void> {
  due.delete(job);
  recently.add(job);
  setTimeout(() => recently.delete(job), SHOW_AGAIN_MS);
  const shown = new Set(
    entries.value.filter((entry) => entry.sent && entry.job === job).map((entry) => entry.key),
  );
  const queries = client;
  if (queries)
    await Promise.all(
      ['run', 'captures', 'photos'].map((what) => askAgain(queries, { queryKey: [what, job] })),
    );
  entries.value = entries.value.filter((entry) => !shown.has(entry.key));
}

/** Sends a refused one again, changed where a person corrected it. */
export async function retry(key: string, corrected: Partial<Sent> = {}): Promise<void> {
  await alter(key, { ...corrected, refused: null, failures: 0 } as Partial<Entry>);
  flush();
}

/** A person's decision that it needn't be kept. */
export async function letGo(key: string): Promise<void> {
  entries.value = entries.value.filter((entry) => entry.key !== key);
  sendings.get(key)?.abort();
  noteKept(key, true);
  held.delete(key);
  settle(key, null);
  await store.remove(key);
  tell('changed');
}
