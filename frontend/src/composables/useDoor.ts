/** Who is signed in on this device, where somebody has to be. */
import { useQuery, useQueryClient } from '@tanstack/vue-query';
import { computed, watch, watchEffect } from 'vue';
import {
  isNavigationFailure,
  NavigationFailureType,
  useRouter,
  type LocationQueryRaw,
  type Router,
} from 'vue-router';
import { api, onAnswer, type Door, type Person } from '@/api/client';
import { forgetAnswers } from '@/support/keptAnswers';
import { currentPerson, lockedHere } from '@/support/person';

const KEY = ['door'];

let leaving: Promise<void> | undefined;
/** One way to the door at a time: each of several refusals would cancel the way of the one before, and begin again. */
const oneWay = (way: () => Promise<void>) => (leaving ??= way().finally(() => (leaving = undefined)));

/** `query` says where to go afterwards, from the page that is left. */
async function toSignIn(router: Router, query: (from: string) => LocationQueryRaw): Promise<void> {
  const here = router.currentRoute.value;
  if (here.meta.door) return;
  const failure = await router.replace({ name: 'sign-in', query: query(here.fullPath) });
  // A page that was just changing its own address came between.
  if (isNavigationFailure(failure, NavigationFailureType.cancelled)) await toSignIn(router, query);
}

export function useDoor() {
  const router = useRouter();
  const queries = useQueryClient();
  const { data, isSuccess, isFetchedAfterMount } = useQuery({
    queryKey: KEY,
    queryFn: api.door,
    staleTime: 60_000,
  });
  const person = computed(() => data.value?.person ?? null);
  watchEffect(() => {
    // While it isn't known it stays who it was: a page without a connection keeps its person.
    if (!data.value) return;
    currentPerson.value = person.value?.id ?? null;
    // Signed out elsewhere: there is nobody to come back.
    if (!person.value) lockedHere.value = false;
  });
  const locked = computed(() => data.value?.locked ?? false);
  /** Whether the server says that nobody is signed in; a kept answer may be older than a sign-in in another tab. */
  const nobody = computed(
    () => isSuccess.value && isFetchedAfterMount.value && locked.value && !person.value,
  );
  /** Whether this device locked itself until that person is back. */
  const away = computed(() => lockedHere.value || (data.value?.away ?? false));
  const device = computed(() => data.value?.device ?? null);
  /** Whether whoever is here keeps to practice jobs. */
  const practises = computed(() => data.value?.practises ?? false);
  /** Whether whoever is here may do that; everybody may where nobody has to sign in. */
  const may = (act: Door['may'][number]) => !locked.value || (data.value?.may ?? []).includes(act);
  const byPin = computed(() => data.value?.by_pin ?? []);

  /** Whoever came in sees what is theirs, and nothing of who was here before. */
  async function entered(who: Person | null): Promise<void> {
    lockedHere.value = false;
    queries.removeQueries({ predicate: (query) => query.queryKey[0] !== KEY[0] });
    await forgetAnswers();
    // What this person may do comes with the answer that is asked for at once.
    const now = { locked: true, person: who, may: [], practises: false, away: false };
    queries.setQueryData<Door>(KEY, (former) => ({ by_pin: [], ...former, ...now }));
    await look();
  }
  /** Whoever comes next starts at the jobs: the refusals that this makes don't send them to the page that was left. */
  async function signOut(): Promise<void> {
    await leaving;
    await oneWay(async () => {
      await api.signOut();
      await toSignIn(router, () => ({}));
      await entered(null);
    });
  }
  const look = () => queries.invalidateQueries({ queryKey: KEY });
  const nowAway = (is: boolean) =>
    queries.setQueryData<Door>(KEY, (former) => (former ? { ...former, away: is } : former));
  async function lock(): Promise<void> {
    // Before the server knows: nobody reads on meanwhile.
    lockedHere.value = true;
    nowAway(true);
    await api.lock();
  }
  async function back(by: { pin: string } | { password: string }): Promise<void> {
    await api.unlock(by);
    lockedHere.value = false;
    nowAway(false);
    // What was asked meanwhile was refused.
    await queries.invalidateQueries({ predicate: (query) => query.queryKey[0] !== KEY[0] });
  }
  return {
    person,
    practises,
    may,
    locked,
    nobody,
    away,
    device,
    byPin,
    entered,
    signOut,
    lock,
    back,
    look,
    nowAway,
  };
}

/** Sends whoever isn't signed in to the door, and back to where they were afterwards; called once, at the top. */
export function watchTheDoor(): void {
  const router = useRouter();
  const queries = useQueryClient();
  const { nowAway, nobody } = useDoor();
  const toTheDoor = () => oneWay(leave);
  async function leave(): Promise<void> {
    // An answer may come before the page has arrived where its address says: there it may be at the door already.
    await router.isReady();
    if (router.currentRoute.value.meta.door) return;
    // Signed out or taken away elsewhere: the next person on this device finds nothing of what was shown.
    queries.removeQueries({ predicate: (query) => query.queryKey[0] !== KEY[0] });
    void forgetAnswers();
    await toSignIn(router, (from) => ({ to: from }));
  }
  // A refusal may come before anybody listens for it; who is signed in is asked for again by each page that opens.
  watch(nobody, (is) => is && void toTheDoor(), { immediate: true });
  onAnswer((status, _, address) => {
    if (status === 423) nowAway(true);
    // A wrong password or PIN is no reason to leave.
    if (status !== 401 || address?.includes('/api/doors/')) return;
    void toTheDoor();
  });
}
