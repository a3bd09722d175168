/**
 * Where entries wait: IndexedDB, which says when something is really kept. Each entry is one value of its own, so tabs
 * don't overwrite one another's; files stand beside in a store of their own.
 */
import { createStore, del, get, promisifyRequest, set, values } from 'idb-keyval';
import { broughtUp } from '@/support/olderRecords';
import type { Entry } from './entry';

const records = createStore('rook-outbox', 'records');
const files = createStore('rook-files', 'files');
const SEQUENCE = '~sequence';

/** Everything that is kept, in the order in which it came; nothing on a device that keeps nothing. */
export async function all(): Promise<Entry[]> {
  const kept: unknown[] = await values<unknown>(records).catch(() => []);
  return kept
    .filter((text): text is string => typeof text === 'string')
    .map((text) => broughtUp<Entry>(JSON.parse(text)))
    .map((entry) => ({ ...entry, installation: entry.installation ?? null }))
    .sort((a, b) => place(a) - place(b) || a.at - b.at);
}

/** Keeps a new entry with this device's next number in what it takes, in one transaction; gives it with the number. */
export async function add(entry: Entry, file?: Blob): Promise<Entry> {
  if (file) await set(entry.key, file, files);
  return records('readwrite', async (store) => {
    // Where the count was lost it begins above whatever was reached: nobody takes a thousand readings a second.
    const next = Number((await promisifyRequest(store.get(SEQUENCE))) ?? Date.now()) + 1;
    const numbered = withSequence(entry, next);
    store.put(next, SEQUENCE);
    store.put(JSON.stringify(numbered), entry.key);
    await promisifyRequest(store.transaction);
    return numbered;
  });
}

/** Keeps a change of an entry, unless it has been let go or sent meanwhile. */
export async function change(entry: Entry): Promise<void> {
  await records('readwrite', async (store) => {
    if ((await promisifyRequest(store.get(entry.key))) === undefined) return;
    store.put(JSON.stringify(entry), entry.key);
    await promisifyRequest(store.transaction);
  });
}

export async function remove(key: string): Promise<void> {
  await del(key, records).catch(() => undefined);
  await del(key, files).catch(() => undefined);
}

export const fileOf = (key: string): Promise<Blob | undefined> =>
  get<Blob>(key, files).catch(() => undefined);

/** Where an entry stands among this device's; those of earlier versions have no number and come first. */
function place(entry: Entry): number {
  if ('body' in entry) return entry.body.sequence ?? 0;
  if ('told' in entry) return entry.told.sequence ?? 0;
  return entry.sequence ?? 0;
}

function withSequence(entry: Entry, sequence: number): Entry {
  if ('body' in entry) return { ...entry, body: { ...entry.body, sequence } } as Entry;
  if ('told' in entry) return { ...entry, told: { ...entry.told, sequence } };
  return { ...entry, sequence };
}
