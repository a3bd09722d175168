/** Which entry is sent next: one that has to wait steps behind those of other jobs, people and installations. */
import { isFile, type Listed } from './entry';

const RETRY_MS = 1500;

/** Records of one job, person and installation are sent in their order; a file waits for no other. */
const laneOf = (entry: Listed): string =>
  isFile(entry) ? entry.key : [entry.job, entry.person ?? '', entry.installation ?? ''].join(' ');

/** The record that an entry can't be sent before. */
const recordOf = (entry: Listed): string | null =>
  entry.kind === 'strike' || entry.kind === 'put-back' ? entry.record : null;

export class Lanes {
  /** When each lane is tried again. */
  #again = new Map<string, number>();
  /** When anything is, after nobody answered. */
  #anything = 0;
  #wake: (() => void) | null = null;

  rest(entry: Listed): void {
    this.#again.set(laneOf(entry), Date.now() + RETRY_MS);
  }

  restAll(): void {
    this.#anything = Date.now() + RETRY_MS;
  }

  /** Tries everything again at once: another person or another server is there. */
  forget(): void {
    this.#again.clear();
    this.#anything = 0;
    this.wake();
  }

  /** Ends a pause: something new may be there to be sent. */
  wake(): void {
    this.#wake?.();
  }

  /** The first of `entries` that may go now; undefined where all of them rest. */
  next(entries: readonly Listed[]): Listed | undefined {
    const now = Date.now();
    if (now < this.#anything) return undefined;
    const waiting = new Set(entries.flatMap((entry) => ('body' in entry ? [entry.body.id] : [])));
    return entries.find(
      (entry) => (this.#again.get(laneOf(entry)) ?? 0) <= now && !waiting.has(recordOf(entry) ?? ''),
    );
  }

  /** Resolves when the first of `entries` may be tried again, or when it is woken. */
  async pause(entries: readonly Listed[]): Promise<void> {
    const times = entries.map((entry) => this.#again.get(laneOf(entry)) ?? 0);
    const until = Math.max(this.#anything, Math.min(...times));
    await new Promise<void>((resolve) => {
      const timer = setTimeout(resolve, Math.max(10, until - Date.now()));
      this.#wake = () => {
        clearTimeout(timer);
        resolve();
      };
    });
    this.#wake = null;
  }
}
