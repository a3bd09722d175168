/**
 * One run on several devices: whether this one holds it, who else is there, and what is offered. Where nobody has to
 * sign in there is one machine only, and it holds every run.
 */
import { useQuery, useQueryClient } from '@tanstack/vue-query';
import { computed, onScopeDispose, type Ref, ref, watch } from 'vue';
import { api, type Together, type Wish } from '@/api/client';
import { useDoor } from './useDoor';
import { useTrying } from './useTrying';

/** What changes is told at once; this only says that a screen is still there. */
const SIGN_EVERY_MS = 10_000;

/** Where in the run a screen is: at a step, and at one of its readings where those are several. */
export type Place = { step: string; row: string | null };

/** `looksOn` is for a page that only shows the run, maybe beside another one of the same device. */
export function useTogether(job: Ref<string>, at: Ref<Place>, looksOn = false) {
  const sign = (leaves: boolean) => api.beThere(job.value, { ...at.value, leaves, looks_on: looksOn });
  const queries = useQueryClient();
  const { locked, person, device } = useDoor();
  const own = computed(() => device.value?.id);
  const { trouble, trying } = useTrying();
  const key = computed(() => ['together', job.value, at.value, looksOn]);
  const { data } = useQuery({
    queryKey: key,
    queryFn: () => sign(false),
    enabled: computed(() => locked.value && person.value !== null && at.value.step !== ''),
    refetchInterval: SIGN_EVERY_MS,
    // A screen that lies face down still holds its run.
    refetchIntervalInBackground: true,
    placeholderData: (former: Together | undefined) => former,
  });
  const holder = computed(() => data.value?.present.find((person) => person.holds));
  /** Somebody else holds the run. Without a word from the server this device goes on as it was. */
  const follows = computed(() => holder.value !== undefined && holder.value.device !== own.value);
  const others = computed(() => (data.value?.present ?? []).filter((person) => person.device !== own.value));
  const canHandOver = computed(() => others.value.some((person) => person.works));
  const asking = computed(() => others.value.find((person) => person.asks));
  const asked = computed(
    () => data.value?.present.some((person) => person.device === own.value && person.asks) ?? false,
  );
  const mayTake = computed(() => data.value?.may_take ?? false);
  const offers = computed(() => data.value?.offers ?? []);
  /** Whether this screen goes along with the one that holds the run. */
  const goesAlong = ref(true);

  const again = () => queries.invalidateQueries({ queryKey: ['together', job.value] });
  const wish = (wanted: Wish) =>
    trying(async () => {
      queries.setQueryData(key.value, await api.wish(job.value, { wish: wanted }));
    });
  /** What the one key does: ask for it, take it where that may be, or hand it over. */
  function turn(): void {
    if (!follows.value) void (canHandOver.value && wish('hand_over'));
    else void wish(mayTake.value ? 'take' : 'ask');
  }
  const takeOffer = (id: string) => trying(() => api.takeOffer(job.value, id)).then(again);
  const leaveOffer = (id: string) => trying(() => api.leaveOffer(job.value, id)).then(again);
  const refuse = () => {
    trouble.value = `${holder.value?.who ?? 'Somebody else'} holds this run: ask for it first.`;
  };
  watch(follows, () => (trouble.value = ''));

  onScopeDispose(() => {
    if (!locked.value || !person.value) return;
    void sign(true).catch(() => undefined);
  });
  return {
    holder,
    follows,
    others,
    canHandOver,
    asking,
    asked,
    mayTake,
    offers,
    goesAlong,
    trouble,
    wish,
    turn,
    takeOffer,
    leaveOffer,
    refuse,
  };
}

export type RunTogether = ReturnType<typeof useTogether>;
