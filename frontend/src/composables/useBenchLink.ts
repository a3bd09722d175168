/** The simulated bench while a run is worked: its path and volume follow the open step, its meter is held against it. */
import { until, useTimeoutFn } from '@vueuse/core';
import { computed, onScopeDispose, ref, watch } from 'vue';
import type { BenchState } from '@/api/client';
import { useBench } from './useBench';
import { useCaptureSender } from './useCaptures';
import type { OpenJob } from './useJob';
import { usePreferences } from './usePreferences';
import type { RunDesk } from './useRunDesk';

const UPDATE_MS = 400;

export function useBenchLink(open: OpenJob, desk: RunDesk) {
  const preferences = usePreferences();
  const measuring = computed(() => desk.step.value?.wants != null);
  const simulated = computed(() => preferences.value.meter === 'simulated');
  const inUse = computed(() => simulated.value && measuring.value);
  const {
    bench,
    turn: send,
    sending,
  } = useBench(
    open.id,
    computed(() => preferences.value.benchOpen || simulated.value),
  );
  /** So long after a knob was turned the meter may still show what was before: as it needs, and an update more. */
  const settleMs = computed(() => 1000 * (open.meter.value?.settles_s ?? 1) + UPDATE_MS);
  const { isPending: turned, start: moved } = useTimeoutFn(() => undefined, settleMs, { immediate: false });
  function turn(knobs: Partial<BenchState>): void {
    moved();
    send(knobs);
  }
  const settling = computed(() => {
    const shown = open.meter.value;
    if (!inUse.value || !shown) return false;
    const elsewhere = shown.sample.volume != null && shown.sample.volume !== desk.volume.value;
    return turned.value || sending.value || !shown.steady || elsewhere;
  });
  const { keepBench } = useCaptureSender(open.id);

  watch(
    () => (inUse.value ? [desk.key.value, desk.row.value].filter(Boolean).join('~') : null),
    (step) => (open.meterStep.value = step),
    { immediate: true },
  );
  onScopeDispose(() => (open.meterStep.value = null));

  // The bench holds one path's amplifier at a time: the open step's.
  watch([() => desk.step.value?.along, () => bench.value?.state.path], ([wanted, now]) => {
    if (wanted && bench.value && wanted !== now) turn({ path: wanted });
  });

  // What is played from is a setting of the source, not something that a probe sees.
  watch([() => desk.step.value?.wants?.way, () => bench.value?.state.way], ([wanted, now]) => {
    if (inUse.value && wanted && bench.value && wanted !== now) turn({ way: wanted });
  });

  // With the bench in use its volume is the source's volume: one knob, not two.
  watch(
    [() => bench.value?.state.volume, inUse, desk.key],
    ([number, used]) => {
      if (used && number !== undefined) desk.volume.value = number;
    },
    { immediate: true },
  );
  function setVolume(number: number): void {
    desk.volume.value = Math.max(0, Math.min(desk.topVolume.value, number));
    if (simulated.value) turn({ volume: desk.volume.value });
  }

  const told = ref({ step: '', words: '' });
  const kept = computed(() => (told.value.step === desk.key.value ? told.value.words : ''));
  async function keepWave(): Promise<void> {
    const step = desk.key.value;
    told.value = { step, words: 'Analysing …' };
    // What was turned just now has to have reached the bench.
    await until(sending).toBe(false);
    const name = `${desk.step.value?.name ?? 'bench'} at ${bench.value?.state.volume ?? 0}.csv`;
    told.value = { step, words: await keepBench(name) };
  }

  return { bench, turn, settling, measuring, simulated, setVolume, kept, keepWave };
}
