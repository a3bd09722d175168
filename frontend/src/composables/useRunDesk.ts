/** The run as it is worked: the open step, the source volume, taking readings and answers, undo. */
import { computed, ref, type Ref, watch } from 'vue';
import type { MeterEvent, NewMark, NewReading, Reading, Row, Step, StepState } from '@/api/client';
import { DEVICE } from '@/support/device';
import { corrected } from '@/support/meterError';
import { formatReading } from '@/support/readings';
import type { OpenJob } from './useJob';
import { useOutbox } from './useOutbox';
import { usePreferences } from './usePreferences';
import { type Place, useTogether } from './useTogether';

type Seen = NonNullable<NewReading['seen']>;
type Said = Partial<Pick<NewMark, 'item' | 'answer' | 'basis' | 'volume' | 'outcome' | 'skipped' | 'note'>>;
/** A reading of volume steps as it is listed: kept, or still waiting to be. */
export type VolumeReading = Pick<Reading, 'id' | 'value' | 'seen'> & {
  volume: number | null;
  /** Which of several readings it is. */
  row: string | null;
  uncertainty?: number | null;
  waiting: boolean;
};
/** A reading or a mark, kept or on its way. */
type Own = { id: string; step: string } & Partial<Pick<Reading, 'value' | 'quantity' | 'seen'>> &
  Partial<Pick<NewMark, 'item' | 'volume' | 'basis' | 'answer' | 'outcome' | 'skipped'>>;
/** A row that is read, or what is asked for instead of volts. */
type Asked = Pick<Row, 'quantity' | 'wants'> & Partial<Pick<Row, 'key'>>;
type Circumstances = NewReading['circumstances'];

const BOUNCE_MS = 400;

function inWords(own: Own): string {
  if (own.value !== undefined) return formatReading(own.value, own.quantity, own.seen);
  if (own.basis) return `clean maximum ${own.volume}`;
  if (own.item === 'back') return 'the beginning of a visit';
  if (own.item) return `answer to “${own.item}”`;
  return own.skipped ? 'skip' : 'remark';
}

export function useRunDesk(open: OpenJob, stepKey: Ref<string | undefined>) {
  const at = ref<Place>({ step: '', row: null });
  const together = useTogether(open.id, at);
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

  /** What is struck out, or put back, by what is still on its way. */
  const underway = computed(() => {
    const last = new Map<string, 'strike' | 'put-back'>();
    for (const entry of outbox.waiting.value) if ('record' in entry) last.set(entry.record, entry.kind);
    return last;
  });
  const stands = (record: { id: string; struck?: string | null }) => {
    const last = underway.value.get(record.id);
    return last ? last === 'put-back' : !record.struck;
  };
  const shown = (now: Circumstances) => ({ volume: now.volume ?? null, row: now.row ?? null });
  const volumeReadings = computed<VolumeReading[]>(() => {
    const kept = (open.view.value?.readings ?? []).filter(
      (reading) => reading.step === key.value && stands(reading),
    );
    const known = new Set((open.view.value?.readings ?? []).map((reading) => reading.id));
    const waiting = outbox.waiting.value.flatMap((entry) =>
      entry.kind === 'reading' &&
      entry.body.step === key.value &&
      !known.has(entry.body.id) &&
      stands(entry.body)
        ? [{ ...entry.body, ...shown(entry.body.circumstances), waiting: true }]
        : [],
    );
    return [
      ...kept.map((record) => ({ ...record, ...shown(record.circumstances), waiting: false })),
      ...waiting,
    ];
  });

  const volume = ref(0);
  watch(
    [key, () => step.value?.wants?.volume],
    () => (volume.value = state.value?.volume_steps?.next_volume ?? step.value?.wants?.volume ?? 0),
    { immediate: true },
  );

  /** Which of the readings that the open step asks for is at hand, where those are several. */
  const row = ref('');
  watch(key, () => (row.value = ''), { flush: 'sync' });
  const choose = (now: string) => (row.value = now);
  watch([key, row], () => (at.value = { step: key.value, row: row.value || null }), { immediate: true });
  /** What is asked for just now: that reading, or the step's only one. */
  const asked = computed<Row | Step | undefined>(
    () => step.value?.rows?.find((candidate) => candidate.key === row.value) ?? step.value,
  );
  // A check goes from point to point, each at the volume that it was read at.
  watch(row, () => {
    const wanted = step.value?.kind === 'check' ? asked.value?.wants?.volume : null;
    if (wanted != null) volume.value = wanted;
  });
  /** The supply as it was measured, kept with every reading that follows. */
  const supply = computed(
    () =>
      run.value?.states.find((state) => state.step === 'supply')?.rows?.find((row) => row.row === 'running')
        ?.reading?.value ?? null,
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
    device: DEVICE,
  });
  const about = () => ({
    vehicle: open.job.value?.sheet.vehicle ?? '',
    step: step.value?.title ?? key.value,
  });

  /** A key that bounces, or Enter hit twice, is one record. */
  let last = { words: '', at: 0 };
  function bounced(words: string): boolean {
    const before = last;
    last = { words, at: Date.now() };
    return before.words === words && last.at - before.at < BOUNCE_MS;
  }

  const wayOf = (of: Asked | undefined) => of?.wants.way ?? step.value?.wants?.way;
  /** A row that somebody added is known by its setting, way and tone; any other is read as it or its step plays. */
  function played(of: Asked | undefined): Pick<Circumstances, 'tone' | 'way' | 'setting'> {
    const own = of?.wants.setting ? of.wants : null;
    const way = own ? own.way : wayOf(of);
    return { tone: own?.tone ?? null, way: way ?? null, setting: own?.setting ?? null };
  }

  /** What is so now. */
  function present(live: MeterEvent | null, of: Asked | undefined): Circumstances {
    const now = played(of);
    return {
      ...now,
      volume: step.value?.top_volume ? volume.value : null,
      tone: live?.sample.tone ?? now.tone ?? null,
      supply_v: of?.quantity === 'dc_volts' ? null : supply.value,
      row: of?.key ?? null,
    };
  }

  /** Volts that were typed, with the meter's known error taken off; anything else as it came. */
  function asMeant(value: number, live: MeterEvent | null, of: Asked | undefined) {
    const isTyped = !live && /volts$/.test(of?.quantity ?? 'ac_volts');
    return corrected(value, isTyped ? preferences.value.meterError : 0);
  }

  function evidenceFor(seen: Seen, of: Asked | undefined) {
    if (of?.quantity === 'verdict') return 'ear' as const;
    return seen === 'unseen' ? null : preferences.value.evidence;
  }

  /** Takes a value with what is so now; what a live meter knows of it goes along. */
  function read(value: number, seen: Seen, live: MeterEvent | null = null, of?: Asked): boolean {
    // A live meter's next value differs in its last digit: the same key is enough.
    if (bounced(`${key.value} ${of?.key} ${seen} ${live ? 'live' : value}`)) return false;
    const meant = asMeant(value, live, of);
    const circumstances = { ...present(live, of), displayed: meant.displayed };
    const builds_on = step.value?.builds_on ?? null;
    const instrument = preferences.value.meter;
    const body = {
      ...common(),
      quantity: of?.quantity ?? ('ac_volts' as const),
      value: meant.value,
      seen,
      evidence: evidenceFor(seen, of),
      instrument,
      circumstances,
      builds_on,
    };
    undone.value = null;
    // Nothing that was read is lost, whoever holds the run.
    void outbox.put({ kind: together.follows.value ? 'offer' : 'reading', body }, about());
    return true;
  }

  /** Says something of the open step, or of another one. */
  function say(said: Said, step = key.value): void {
    if (bounced(`${step} ${JSON.stringify(said)}`)) return;
    if (together.follows.value) return together.refuse();
    undone.value = null;
    void outbox.put(
      { kind: 'mark', body: { ...common(), step, skipped: false, note: '', ...said } },
      about(),
    );
  }

  /** The newest that counts of what this person took on this device, wherever in the run. */
  const newest = computed<Own | undefined>(() => {
    const kept = [...(open.view.value?.readings ?? []), ...(open.view.value?.marks ?? [])].sort(
      (a, b) => (a.arrival ?? 0) - (b.arrival ?? 0),
    );
    const known = new Set(kept.map((record) => record.id));
    const waiting = outbox.waiting.value.flatMap((entry) =>
      'body' in entry && entry.kind !== 'offer' && !known.has(entry.body.id) ? [entry.body] : [],
    );
    return [...kept, ...waiting]
      .filter(
        (record) =>
          record.device === DEVICE && (record.by ?? '') === preferences.value.name && stands(record),
      )
      .at(-1);
  });

  /** What was taken back last, until something else is done. */
  const undone = ref<{ id: string; words: string } | null>(null);

  function undo(): boolean {
    const reading = newest.value;
    if (!reading || together.follows.value) return false;
    const title = run.value?.steps.find((other) => other.key === reading.step)?.title ?? reading.step;
    undone.value = { id: reading.id, words: `${inWords(reading)} at “${title}”` };
    void outbox.put({ kind: 'strike', record: reading.id, reason: 'undone' }, about());
    return true;
  }

  function putBack(): void {
    if (!undone.value) return;
    void outbox.put({ kind: 'put-back', record: undone.value.id }, about());
    undone.value = null;
  }

  return {
    run,
    key,
    index,
    step,
    state,
    volumeReadings,
    volume,
    topVolume,
    row,
    choose,
    asked,
    isOff,
    read,
    say,
    undo,
    undone,
    putBack,
    outbox,
    together,
  };
}

export type RunDesk = ReturnType<typeof useRunDesk>;
