/**
 * What is typed of a job's customer and not saved yet: it lasts while this tab is open, for whoever typed it. It is kept
 * nowhere else, since it is personal, so closing the tab asks first.
 */
import type { Customer } from '@/api/client';
import { currentPerson } from '@/support/person';

export type CustomerDraft = { customer: Customer; base: number };

const drafts = new Map<string, CustomerDraft>();
const place = (job: string) => `${currentPerson.value ?? ''} ${job}`;

export const draftOf = (job: string): CustomerDraft | undefined => drafts.get(place(job));

/** Keeps what is typed; null once it is saved or undone. */
export function noteDraft(job: string, draft: CustomerDraft | null): void {
  if (draft) drafts.set(place(job), draft);
  else drafts.delete(place(job));
}

window.addEventListener('beforeunload', (event) => {
  if (drafts.size) event.preventDefault();
});
