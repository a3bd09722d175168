/**
 * The id of whoever is signed in on this page, or null: what is done is kept and sent under it, and no other. Known from
 * the page before until the server tells, also without a connection. And whether this device locked itself: a lock that
 * the server could not be told of holds all the same, over a reload as well.
 */
import './device';
import { ref, watch } from 'vue';

const PERSON = 'rook.person';
const LOCKED = 'rook.locked';

export const currentPerson = ref<string | null>(localStorage.getItem(PERSON));
export const lockedHere = ref(localStorage.getItem(LOCKED) !== null);

function keep(key: string, value: string | null): void {
  if (value === null) localStorage.removeItem(key);
  else localStorage.setItem(key, value);
}
watch(currentPerson, (now) => keep(PERSON, now));
watch(lockedHere, (now) => keep(LOCKED, now ? 'yes' : null), { flush: 'sync' });
