/** What was saved of a sheet, in sittings: many small saves of one person in a row are one. */
import type { Change, SheetVersion } from '@/api/client';

const SITTING_MS = 15 * 60 * 1000;

export type Sitting = {
  /** The newest of its versions, and the one before its first. */
  version: number;
  from: number;
  by: string;
  saved_at: string;
  changes: Change[];
};

/** Versions, the newest first, as sittings, the newest first. */
export function sittings(versions: readonly SheetVersion[]): Sitting[] {
  const found: Sitting[] = [];
  let first = '';
  for (const saved of versions) {
    const last = found.at(-1);
    const near = last && Date.parse(first) - Date.parse(saved.saved_at) < SITTING_MS;
    first = saved.saved_at;
    // The first version of all is where it began, and stands by itself.
    if (last && near && last.by === saved.by && saved.changes.length) {
      last.from = saved.version - 1;
      last.changes = together(saved.changes, last.changes);
    } else {
      const { version, by, saved_at } = saved;
      found.push({ version, from: version - 1, by, saved_at, changes: together(saved.changes, []) });
    }
  }
  return found;
}

/** Changes one after the other as if they were made in one go: what was put back again is none. */
function together(earlier: readonly Change[], later: readonly Change[]): Change[] {
  const all = new Map<string, Change>();
  for (const change of [...earlier, ...later]) {
    const before = all.get(change.place);
    all.set(change.place, before ? { ...change, was: before.was } : change);
  }
  return [...all.values()].filter((change) => change.was !== change.now);
}
