/**
 * One stream from the server for all tabs of this browser, which gives one host no more than six connections. The tab
 * that leads holds it, for all that any visible tab wants, and passes on what comes; it is let go when nobody looks.
 */
import { channel, isOpen, lead, thisTab } from './tabs';

export type LiveEvent = { name: 'changed' | 'meter' | 'trouble' | 'lost' | 'back'; data: string };
type Told =
  | { kind: 'wants'; tab: string; watch: readonly string[] }
  | { kind: 'who' }
  | { kind: 'event'; event: LiveEvent };

const RECONNECT_MS = 1500;
/** So that opening a step, which changes what is watched twice, opens one stream. */
const SETTLE_MS = 30;
/** As many as the server takes. */
const MOST_WATCHED = 60;

const hearers = new Set<(event: LiveEvent) => void>();
const wanted = new Map<string, readonly string[]>();
let own: readonly string[] = [];
let tab = '';
let leading = false;
let stream: EventSource | null = null;
let address = '';
let timer = 0;
/** Whether something may have changed while no stream was open. */
let gap = false;

const tell = channel<Told>('rook-live', (told) => {
  if (told.kind === 'event') hearers.forEach((hear) => hear(told.event));
  else if (told.kind === 'who') announce();
  else {
    wanted.set(told.tab, told.watch);
    soon(SETTLE_MS);
  }
});

void thisTab().then((name) => {
  tab = name;
  announce();
});
void lead('rook-live').then(() => {
  leading = true;
  tell({ kind: 'who' });
  announce();
});

// A page that is left, or kept back for the way back, holds nothing; neither does one that nobody sees.
let left = false;
for (const [name, leaving] of [
  ['pagehide', true],
  ['pageshow', false],
] as const) {
  window.addEventListener(name, () => {
    left = leaving;
    announce();
  });
}
document.addEventListener('visibilitychange', announce);

/** Says what this tab watches from now on. */
export function watchLive(watch: readonly string[]): void {
  own = watch;
  announce();
}

export function onLive(hear: (event: LiveEvent) => void): () => void {
  hearers.add(hear);
  return () => hearers.delete(hear);
}

function announce(): void {
  if (!tab) return;
  const watch = left || document.visibilityState === 'hidden' ? [] : own;
  wanted.set(tab, watch);
  tell({ kind: 'wants', tab, watch });
  if (left) {
    close();
    gap = true;
  } else soon(SETTLE_MS);
}

function soon(pause: number): void {
  window.clearTimeout(timer);
  timer = window.setTimeout(() => void connect(), pause);
}

function close(): void {
  stream?.close();
  stream = null;
  address = '';
}

/** A tab that crashed took no leave. */
async function forgetClosed(): Promise<void> {
  for (const name of [...wanted.keys()]) if (name !== tab && !(await isOpen(name))) wanted.delete(name);
}

async function connect(): Promise<void> {
  await forgetClosed();
  if (!leading || left) return;
  const watch = [...new Set([...wanted.values()].flat())].sort().slice(0, MOST_WATCHED);
  const next = watch.length
    ? `/api/live?${watch.map((job) => `watch=${encodeURIComponent(job)}`).join('&')}`
    : '';
  if (next === address && stream) return;
  const before = stream;
  address = next;
  if (!next) {
    close();
    gap = true;
    return;
  }
  const opened = new EventSource(next);
  stream = opened;
  for (const name of ['changed', 'meter', 'trouble'] as const) {
    opened.addEventListener(name, (event: MessageEvent) => pass({ name, data: String(event.data) }));
  }
  opened.addEventListener('open', () => {
    // Only now, so that nothing that changes between the two is missed.
    before?.close();
    if (gap) pass({ name: 'back', data: '' });
    gap = false;
  });
  opened.addEventListener('error', () => {
    before?.close();
    if (stream !== opened) return;
    pass({ name: 'lost', data: '' });
    close();
    gap = true;
    soon(RECONNECT_MS);
  });
}

function pass(event: LiveEvent): void {
  hearers.forEach((hear) => hear(event));
  tell({ kind: 'event', event });
}
