/** Locks a shared device that nobody touched for a while; called once, at the top. */
import { useIntervalFn } from '@vueuse/core';
import { computed } from 'vue';
import { Refusal } from '@/api/client';
import { untouchedMs } from '@/support/touch';
import { useDoor } from './useDoor';

const LOOK_EVERY_MS = 5_000;

export function useIdleLock(): void {
  const { person, away, device, lock } = useDoor();
  const after = computed(() => (person.value && !away.value ? device.value?.locks_after_min : null));
  // By the clock, not by a timer: a device that slept locks as it wakes.
  useIntervalFn(() => {
    if (!after.value || untouchedMs() < after.value * 60_000) return;
    // Without a connection it is locked here all the same.
    void lock().catch((problem: unknown) => {
      if (!(problem instanceof Refusal)) throw problem;
    });
  }, LOOK_EVERY_MS);
}
