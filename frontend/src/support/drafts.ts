/**
 * Edits of a sheet that the server doesn't have yet: one draft for each tab and job, so that two tabs never overwrite
 * one another's. A draft whose tab was closed is taken up, where it lies, by the next that opens the job.
 */
import { createStore, del, entries, get, set } from 'idb-keyval';
import type { JobSheet } from '@/api/client';
import { isOpen, standInFor, thisTab } from './tabs';

export type Draft = { base: number; sheet: JobSheet };
/** A draft and the place where it is kept. */
export type Found = Draft & { place: string };

const store = createStore('rook-drafts', 'drafts');
const older = (job: string) => `rook.draft.${job}`;

/** Where this tab keeps its own draft of a job; what one person left is not shown to another on the same device. */
export const ownPlace = async (job: string, person: string | null): Promise<string> =>
  [job, await thisTab(), ...(person ? [person] : [])].join(' ');

/** Keeps what this tab edits; plain data, not a reactive one. Gives whether the device has it. */
export async function keepDraft(place: Promise<string>, draft: Draft): Promise<boolean> {
  return set(await place, JSON.stringify(draft), store).then(
    () => true,
    () => false,
  );
}

export async function dropDraft(place: Promise<string>): Promise<void> {
  localStorage.removeItem(await place);
  await del(await place, store).catch(() => undefined);
}

/** This tab's own draft, or one that a closed tab or an earlier version of the app left: nobody else takes that up. */
export async function findDraft(job: string, person: string | null): Promise<Found | null> {
  const own = await ownPlace(job, person);
  const text = await get<string>(own, store).catch(() => undefined);
  if (text) return found(own, text);
  const before = localStorage.getItem(older(job));
  if (before) return found(older(job), before);
  for (const [place, left] of await entries<string, string>(store).catch(() => [])) {
    const [of, tab = '', whose = null] = place.split(' ');
    if (of === job && whose === person && (await standInFor(tab))) return found(place, left);
  }
  return null;
}

const found = (place: string, text: string): Found => ({ ...(JSON.parse(text) as Draft), place });

/** The jobs that have edits waiting in a tab that is closed. */
export async function jobsWithDrafts(person: string | null): Promise<string[]> {
  const kept = await entries<string, string>(store).catch(() => []);
  const left = await Promise.all(
    kept.map(async ([place]) => {
      const [job, tab = '', whose = null] = place.split(' ');
      return whose !== person || (await isOpen(tab)) ? undefined : job;
    }),
  );
  return [...new Set(left.filter((job) => job !== undefined))];
}
