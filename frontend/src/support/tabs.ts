/** The tabs of this browser among themselves: a name for each, who is open, and who does what only one should do. */

const never = new Promise<never>(() => undefined);
const SESSION = 'rook.tab';
const lockOf = (tab: string) => `rook-tab-${tab}`;

/** Resolves once this tab has the lock `name`, which it keeps; at once where the browser knows no locks. */
export function lead(name: string): Promise<void> {
  if (!navigator.locks) return Promise.resolve();
  return new Promise((resolve) => {
    void navigator.locks.request(name, () => {
      resolve();
      return never;
    });
  });
}

/** Takes the lock `name` for good, unless another tab has it. */
function hold(name: string): Promise<boolean> {
  if (!navigator.locks) return Promise.resolve(true);
  return new Promise((resolve) => {
    void navigator.locks.request(name, { ifAvailable: true }, (lock) => {
      resolve(lock !== null);
      return lock ? never : undefined;
    });
  });
}

async function named(): Promise<string> {
  const before = sessionStorage.getItem(SESSION);
  // A tab that was duplicated has its twin's name: it takes a new one.
  if (before && (await hold(lockOf(before)))) return before;
  const fresh = crypto.randomUUID();
  sessionStorage.setItem(SESSION, fresh);
  await hold(lockOf(fresh));
  return fresh;
}

let name: Promise<string> | undefined;

/** This tab's name, the same after a reload. */
export const thisTab = (): Promise<string> => (name ??= named());

const closedOnes = new Map<string, Promise<boolean>>();

/** Has this tab count as another one that was closed as well; false where that is open, or somebody stands in already. */
export function standInFor(tab: string): Promise<boolean> {
  const asked = closedOnes.get(tab) ?? hold(lockOf(tab));
  closedOnes.set(tab, asked);
  // One that is open now may be closed the next time.
  void asked.then((had) => had || closedOnes.delete(tab));
  return asked;
}

/** Whether the tab of that name is open; where the browser can't tell, only this one is. */
export async function isOpen(tab: string): Promise<boolean> {
  if (!navigator.locks) return tab === (await thisTab());
  const { held = [] } = await navigator.locks.query();
  return held.some((lock) => lock.name === lockOf(tab));
}

/** What tabs tell one another; a browser without it has tabs that don't. */
export function channel<Told>(of: string, hear: (told: Told) => void): (told: Told) => void {
  if (typeof BroadcastChannel === 'undefined') return () => undefined;
  const open = new BroadcastChannel(of);
  open.addEventListener('message', (event: MessageEvent<Told>) => hear(event.data));
  return (told) => open.postMessage(told);
}
