/** The answers of the server as they were last, kept on this device: what is shown while nobody can be asked. */
import { createAsyncStoragePersister } from '@tanstack/query-async-storage-persister';
import { persistQueryClientRestore, persistQueryClientSubscribe } from '@tanstack/query-persist-client-core';
import type { Query, QueryClient } from '@tanstack/vue-query';
import { createStore, del, get, set } from 'idb-keyval';
import { Refusal } from '@/api/client';
import { version } from '../../package.json';

const store = createStore('rook-answers', 'answers');
const WEEK_MS = 7 * 24 * 3600 * 1000;
/** How long opening may wait for a storage that doesn't answer. */
const PATIENCE_MS = 1500;
/** Too large, too fleeting, too personal, or wrong as soon as it is old. */
const NOT_KEPT = new Set(['health', 'bench', 'customer']);

/** Whether an answer is worth keeping: also one that could not be asked for again, or a second look offline finds nothing. */
function isKept({ queryKey, state }: Query): boolean {
  const away = state.error instanceof Refusal && state.error.passing && state.error.status !== 401;
  const [what, search] = queryKey;
  // What was looked for may be a customer's name.
  const isPrivate = NOT_KEPT.has(String(what)) || (what === 'jobs' && Boolean(search));
  return state.data !== undefined && (!state.error || away) && !isPrivate;
}

/** Without the failure to ask again, which is of its moment. */
const asAnswered = (key: string, value: unknown) =>
  key === 'state' && value && typeof value === 'object' && 'dataUpdateCount' in value
    ? { ...value, status: 'success', error: null, fetchFailureReason: null, fetchFailureCount: 0 }
    : value;

const persister = createAsyncStoragePersister({
  storage: {
    getItem: (key) => get<string>(key, store).catch(() => undefined),
    setItem: (key, value: string) => set(key, value, store).catch(() => undefined),
    removeItem: (key) => del(key, store).catch(() => undefined),
  },
  key: 'answers',
  serialize: (kept) => JSON.stringify(kept, asAnswered),
  throttleTime: 2000,
});

/** Forgets it all: it is of another installation. */
export async function forgetAnswers(): Promise<void> {
  await persister.removeClient();
}

/** Puts back what was kept and keeps what comes; resolves when the former is done, or can't be. */
export async function keepAnswers(queryClient: QueryClient): Promise<void> {
  // In the form of another version it can't be shown.
  const options = { queryClient: queryClient as never, persister, buster: version, maxAge: WEEK_MS };
  const restored = persistQueryClientRestore(options).catch(() => undefined);
  await Promise.race([restored, new Promise((resolve) => setTimeout(resolve, PATIENCE_MS))]);
  // However young it is: while no page was open nobody heard of changes.
  await queryClient.invalidateQueries({ refetchType: 'none' });
  persistQueryClientSubscribe({
    ...options,
    dehydrateOptions: {
      shouldDehydrateQuery: isKept,
    },
  });
}
