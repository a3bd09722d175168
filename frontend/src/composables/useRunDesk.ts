/** The run as it is worked: the open step, the source volume, taking readings and answers, undo. */
import { computed, ref, type Ref, watch } from 'vue';
import type { MeterEvent, NewMark, NewReading, Reading, Step, StepState } from '@/api/client';
import type { OpenJob } from './useJob';
import { useOutbox } from './useOutbox';
import { usePreferences } from './usePreferences';

type Seen = NonNullable<NewReading['seen']>;
type Said = Partial<Pick<NewMark, 'item' | 'answer' | 'basis' | 'volume' | 'outcome' | 'skipped' | 'note'>>;
/** A reading of the ladder as it is listed: kept, or still waiting to be. */
export type Rung = Pick<Reading, 'id' | 'value' | 'seen'> & {
  volume: number | null;
  uncertainty?: number | null;
  waiting: boolean;
};
type Circumstances = NewReading['circumstances'];

export function useRunDesk(open: OpenJob, stepKey: Ref<string | undefined>) {
  const preferences = usePreferences();
  const outbox = useOutbox(() => open.id.value);
  const run = computed(() => open.view.value?.run);
  const key = computed(() => {
    const known = run.value?.steps.some((step) => step.key === stepKey.value);
    return known && stepKey.value ? stepKey.value : (run.value?.current ?? '');
  });
  const index = computed(() => run.value?.steps.findIndex((step) => step.key === key.value) ?? 0);
  const step = computed<Step | undefined>(() => run.value?.steps[index.value]);
  const state = computed<StepState | undefined>(() => run.value?.states[index.value]);
  const topVolume = computed(() => step.value?.top_volume ?? 0);

  const struckWaiting = computed(
    () => new Set(outbox.waiting.value.map((one) => (one.kind === 'strike' ? one.record : ''))),
  );
  const rungs = computed<Rung[]>(() => {
    const kept = (open.view.value?.readings ?? []).filter(
      (one) => one.step === key.value && !one.struck && !struckWaiting.value.has(one.id),
    );
    const known = new Set(kept.map((one) => one.id));
    const waiting = outbox.waiting.value.flatMap((one) =>
      one.kind === 'reading' &&
      one.body.step === key.value &&
      !known.has(one.body.id) &&
      !struckWaiting.value.has(one.body.id)
        ? [{ ...one.body, volume: one.body.circumstances.volume ?? null, waiting: true }]
        : [],
    );
    return [
      ...kept.map((one) => ({ ...one, volume: one.circumstances.volume ?? null, waiting: false })),
      ...waiting,
    ];
  });

  const volume = ref(0);
  watch(
    [key, () => step.value?.wants?.volume],
    () => (volume.value = state.value?.ladder?.next_volume ?? step.value?.wants?.volume ?? 0),
    { immediate: true },
  );

  /** Whether something is known to be otherwise than the open step wants it. */
  function isOff(now: Circumstances): boolean {
    const wants = step.value?.wants;
    return !step.value?.volume_free && wants?.volume != null && now.volume !== wants.volume;
  }

  const common = () => ({
    id: crypto.randomUUID(),
    step: key.value,
    sheet_version: open.job.value?.version ?? 1,
    taken_at: new Date().toISOString(),
    by: preferences.value.name,
  });

  /** Takes a value with what is so now; what a live meter knows of it goes along. */
  function read(value: number, seen: Seen, live: MeterEvent | null = null): void {
    const circumstances: Circumstances = { volume: volume.value, tone: live?.sample.tone ?? null };
    const builds_on = step.value?.builds_on ?? null;
    const instrument = preferences.value.meter;
    const body = {
      ...common(),
      quantity: 'ac_volts' as const,
      value,
      seen,
      instrument,
      circumstances,
      builds_on,
    };
    outbox.put({ kind: 'reading', body });
  }

  function say(said: Said): void {
    outbox.put({ kind: 'mark', body: { ...common(), skipped: false, note: '', ...said } });
  }

  /** The newest reading or mark that counts, wherever in the run it was taken. */
  function newest(): string | undefined {
    const kept = [...(open.view.value?.readings ?? []), ...(open.view.value?.marks ?? [])].filter(
      (one) => !one.struck,
    );
    const waiting = outbox.waiting.value.flatMap((one) => (one.kind === 'strike' ? [] : [one.body]));
    return [...kept, ...waiting]
      .filter((one) => !struckWaiting.value.has(one.id))
      .sort((a, b) => Date.parse(a.taken_at) - Date.parse(b.taken_at))
      .at(-1)?.id;
  }

  function undo(): boolean {
    const record = newest();
    if (record) outbox.put({ kind: 'strike', record, reason: 'undone' });
    return record !== undefined;
  }

  return { run, key, index, step, state, rungs, volume, topVolume, isOff, read, say, undo, outbox };
}

export type RunDesk = ReturnType<typeof useRunDesk>;
