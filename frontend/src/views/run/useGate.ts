/** What has to be so before the open step is measured: it stands before saving, and there is a way round it. */
import { computed, ref, watch } from 'vue';
import type { Step } from '@/api/client';
import type { RunDesk } from '@/composables/useRunDesk';

export type Need = NonNullable<Step['needs']>[number];

export function useGate(desk: RunDesk) {
  const passed = ref(false);
  /** Counts how often something was to be saved in spite of it. */
  const refusals = ref(0);
  watch(desk.key, () => {
    passed.value = false;
    refusals.value = 0;
  });
  /** Answered on this device already, and on its way. */
  const isAnswered = (need: Need) =>
    desk.outbox.waiting.value.some(
      (entry) =>
        entry.kind === 'mark' && entry.body.step === need.step && entry.body.item === need.item && need.item,
    );
  const need = computed(() => desk.step.value?.needs?.find((need) => !isAnswered(need)));
  const stands = computed(() => need.value !== undefined && !passed.value);

  /** Whether a reading may be saved now; where it may not, the gate says so again. */
  function isOpen(): boolean {
    if (stands.value) refusals.value += 1;
    return !stands.value;
  }
  return { need, stands, refusals, isOpen, pass: () => (passed.value = true) };
}

export type Gate = ReturnType<typeof useGate>;
