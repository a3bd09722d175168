/**
 * What is typed or drawn and not saved yet: it lasts while this tab is open, for whoever did it. It is kept nowhere
 * else, since it may be personal, so closing the tab asks first.
 */
import { shallowReactive } from 'vue';
import { currentPerson } from './person';

const drafts = shallowReactive(new Map<string, unknown>());
const owned = (place: string) => `${currentPerson.value ?? ''} ${place}`;

export const draftAt = <Draft>(place: string): Draft | undefined =>
  drafts.get(owned(place)) as Draft | undefined;

/** Keeps a draft; null once it is saved or undone. */
export function noteDraft<Draft>(place: string, draft: Draft | null): void {
  if (draft === null) drafts.delete(owned(place));
  else drafts.set(owned(place), draft);
}

window.addEventListener('beforeunload', (event) => {
  if (drafts.size) event.preventDefault();
});
