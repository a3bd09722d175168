<script setup lang="ts">
/** Wanted volts beside the volts now, and the way to save them: what every step with a target shows. */
import { computed, ref } from 'vue';
import type { Comparison, MeterEvent, NewReading, Row, RowState } from '@/api/client';
import NoteBox from '@/components/NoteBox.vue';
import { useWhenSteady } from '@/composables/useWhenSteady';
import type { RunDesk } from '@/composables/useRunDesk';
import { useSaid } from '@/composables/useSaid';
import { useSounds } from '@/composables/useSounds';
import { formatDoubt, formatValue, type QuantityKind, steadyNumber } from '@/support/quantity';
import { pressed } from '@/support/keys';
import BandLine from './BandLine.vue';
import NeedGate from './NeedGate.vue';
import ReadingEntry from './ReadingEntry.vue';
import StepOrders from './StepOrders.vue';
import StopWatch from './StopWatch.vue';
import NotConfirmed from './NotConfirmed.vue';
import type { Gate } from './useGate';
import VolumeStepper from './VolumeStepper.vue';

const props = defineProps<{
  desk: RunDesk;
  gate: Gate;
  meter: MeterEvent | null;
  simulated: boolean;
  settling: boolean;
  /** One of the readings that the step asks for, and how it stands, where those are several. */
  row?: Row | undefined;
  rowState?: RowState | undefined;
}>();
const emit = defineEmits<{ volume: [number: number]; taken: [] }>();
const sounds = useSounds();
const entry = ref<InstanceType<typeof ReadingEntry> | null>(null);

const step = computed(() => props.desk.step.value);
const target = computed(() => (props.row ? props.row.target : step.value?.target) ?? null);
const state = computed(() => props.desk.state.value);
const stands = computed(() => (props.row ? props.rowState : state.value));
const KINDS: Record<string, QuantityKind> = {
  dc_volts: 'direct_volts',
  ohms: 'ohms',
  seconds: 'seconds',
  decibels: 'decibels',
  numbers: 'steps',
  level: 'decibels',
};
const unit = computed(() => props.row?.unit ?? 'V');
const measured = computed(() => (props.row?.quantity === 'dc_volts' ? 'V DC' : unit.value));
const kind = computed<QuantityKind>(() => KINDS[props.row?.quantity ?? ''] ?? 'volts');
/** Only volts come from a meter that is read live; the rest is typed. */
const metered = computed(() => (props.simulated && /volts$/.test(kind.value) ? props.meter : null));
/** A check wants what was there before. */
const heading = computed(() => (props.desk.step.value?.kind === 'check' ? 'Before' : 'Wanted'));
const live = computed(() => (metered.value?.elsewhere ? null : metered.value));
const waiting = computed(() =>
  props.desk.volumeReadings.value
    .filter((volumereading) => volumereading.waiting && (!props.row || volumereading.row === props.row.key))
    .at(-1),
);
/** That another tone played than the row wants, of the reading that is there. */
const otherwise = computed(() => (waiting.value ? '' : (props.rowState?.otherwise ?? '')));
const last = computed(() => waiting.value ?? stands.value?.reading ?? null);
const shown = computed(() => live.value?.sample.value_v ?? last.value?.value ?? null);
const picked = computed(() => props.row?.choices?.find((choice) => choice.value === shown.value)?.text);
const doubt = computed(() => (live.value ? live.value.sample.uncertainty_v : last.value?.uncertainty));
const comparison = computed<Comparison | null>(() => {
  if (live.value) return live.value.comparison ?? null;
  return waiting.value ? null : (stands.value?.comparison ?? null);
});
const ARROWS = { below: '▲', above: '▼', inside: '=', unsure: '≈' };
const TONES = { below: 'said-edge', above: 'said-clipped', inside: 'said-clean', unsure: 'said-clean' };
const elsewhere = computed(() => metered.value?.elsewhere ?? false);
const ELSEWHERE = 'Probe is on the wrong point: move it.';
/** Aloud only when the band changes: live volts never rest. What was typed is told each time. */
const said = useSaid(
  () => (elsewhere.value ? 'elsewhere' : live.value ? comparison.value?.fit : comparison.value?.sentence),
  () => (elsewhere.value ? ELSEWHERE : (comparison.value?.sentence ?? '')),
);
/** Why a reading that was saved settles nothing yet, beyond what its comparison says. */
const unsettled = computed(() => {
  const now = state.value;
  if (props.row || now?.state !== 'open' || !now.reading) return '';
  // A reading in range may still have to be turned down for its load.
  return now.comparison && now.turn_down_to_v == null ? '' : now.sentence;
});
const offVolume = computed(() => props.desk.isOff({ volume: props.desk.volume.value }));

type Seen = NonNullable<NewReading['seen']>;
const settling = () => props.settling && live.value !== null;
const { whenSteady, waits } = useWhenSteady(settling, () => [props.row?.key, props.desk.volume.value]);
const action = computed(() => (waits.value ? 'Settling …' : 'Save'));

/**
 * Saves what was typed, or the live value once it rests; for one of those that are noted beside it, where that is given.
 * `next` is done once it is saved.
 */
function take(seen: Seen = 'unseen', of: Row | undefined = props.row, next?: () => void): void {
  if (!props.gate.isOpen()) return sounds.refused();
  if (entry.value?.hasText()) save(seen, of, next);
  else whenSteady(() => save(seen, of, next));
}
function save(seen: Seen, of: Row | undefined, next?: () => void): void {
  const volts = entry.value?.take() ?? null;
  if (volts === null) return sounds.refused();
  props.desk.read(volts, seen, live.value, of);
  sounds.taken();
  emit('taken');
  next?.();
}

/** Values to pick from, where it isn't typed. */
const picks = computed(() => props.row?.choices ?? []);
function pick(value: number): void {
  if (!props.gate.isOpen()) return sounds.refused();
  props.desk.read(value, 'unseen', null, props.row);
  sounds.taken();
  emit('taken');
}

/** Does `next` with the reading that stands, which is what was just typed or shows live where there is such. */
function withReading(next: () => void): void {
  const fresh = entry.value?.hasText() || live.value !== null || !last.value;
  if (fresh) take('unseen', props.row, next);
  else next();
}

function handleKey(event: KeyboardEvent): boolean {
  const acts: Record<string, () => void> = {
    // Among several readings the arrows go from one to the next.
    ...(props.row
      ? {}
      : {
          ArrowUp: () => emit('volume', props.desk.volume.value + 1),
          ArrowDown: () => emit('volume', props.desk.volume.value - 1),
        }),
    Enter: () => take(),
    ...Object.fromEntries(picks.value.map((choice, index) => [String(index + 1), () => pick(choice.value)])),
  };
  return pressed(event, acts) || (entry.value?.begin(event) ?? false);
}
defineExpose({ handleKey, withReading, take, comparison, toEntry: () => entry.value?.focus() });
</script>

<template>
  <template v-if="step && (target || row)">
    <NeedGate :gate="gate" :desk="desk" />
    <StepOrders :step="step" :row="row" />
    <div class="sheet work mt-2">
      <div class="values">
        <div v-if="target">
          <span class="quiet fw-bold">{{ heading }}</span>
          <p class="working-value digits" aria-label="Volts wanted">
            {{ steadyNumber(target.value) }}<small>&nbsp;{{ unit }}</small>
          </p>
        </div>
        <div>
          <span class="quiet fw-bold"
            >{{ live ? 'Now' : 'Last saved' }}
            {{ shown === null || kind !== 'volts' || picks.length ? '' : formatDoubt(doubt) + ' V' }}</span
          >
          <p
            class="working-value digits"
            :class="comparison ? TONES[comparison.fit] : ''"
            aria-label="Volts now"
            :aria-busy="settling()"
          >
            <span v-if="picked" class="picked">{{ picked }}</span>
            <template v-else
              >{{ shown === null ? '–' : steadyNumber(shown) }}<small>&nbsp;{{ unit }}</small></template
            >
          </p>
        </div>
      </div>
      <NotConfirmed v-if="target?.not_confirmed?.length" :values="target.not_confirmed" />
      <BandLine v-if="target" :target="target" :value="otherwise && !live ? null : shown" />
      <span class="visually-hidden" role="status">{{ said }}</span>
      <p class="how">
        <template v-if="elsewhere">{{ ELSEWHERE }}</template>
        <span v-else-if="live?.other_tone" class="said-edge">{{ live.other_tone }}</span>
        <span v-else-if="otherwise && !live" class="said-edge">Doesn’t count: {{ otherwise }}.</span>
        <template v-else-if="waiting && !live">It is compared once it is sent.</template>
        <span v-else-if="comparison" :class="TONES[comparison.fit]">
          <span aria-hidden="true">{{ ARROWS[comparison.fit] }}</span> {{ comparison.sentence }}
        </span>
        <template v-else-if="target"
          >Accepted from {{ formatValue(target.limits.low, unit) }} to
          {{ formatValue(target.limits.high, unit) }}.</template
        >
      </p>
      <div v-if="picks.length" class="d-flex flex-wrap gap-2">
        <BButton
          v-for="(choice, index) in picks"
          :key="choice.value"
          class="btn-run"
          variant="primary"
          @click="pick(choice.value)"
          >{{ choice.text }} <kbd>{{ index + 1 }}</kbd></BButton
        >
      </div>
      <div v-else class="take">
        <ReadingEntry
          ref="entry"
          :live="live ? live.sample.value_v : null"
          :kind="kind"
          :label="row ? [row.name, measured].filter(Boolean).join(': ') : 'Volts at the speaker terminals'"
        />
        <StopWatch v-if="kind === 'seconds'" @stopped="(seconds) => entry?.put(seconds.toFixed(0))" />
        <BButton class="btn-run" variant="primary" @click="take()"
          >{{ action }} <kbd v-if="!waits">Enter</kbd></BButton
        >
        <VolumeStepper
          v-if="step.top_volume"
          class="not-hand"
          :volume="desk.volume.value"
          :top="desk.topVolume.value"
          @volume="(number) => emit('volume', number)"
        />
      </div>
      <p v-if="offVolume" class="said-edge fw-bold mb-0">
        Volume is {{ desk.volume.value }}. Set it to {{ step.wants?.volume }}.
      </p>
    </div>
    <slot name="rows" />
    <div class="mt-3">
      <VolumeStepper
        v-if="step.top_volume"
        class="only-hand mb-2"
        :volume="desk.volume.value"
        :top="desk.topVolume.value"
        @volume="(number) => emit('volume', number)"
      />
      <NoteBox v-for="told in stands?.meanings ?? []" :key="told" kind="edge">{{ told }}</NoteBox>
      <p v-if="state?.state === 'done'" class="said-clean fs-5 fw-bold mb-2">✓ Saved. {{ state.sentence }}</p>
      <p v-else-if="unsettled" class="said-edge fw-bold mb-2">{{ unsettled }}</p>
      <slot :comparison="comparison" :done="state?.state === 'done'" />
    </div>
  </template>
</template>

<style scoped lang="scss">
@use '@/styles/breakpoints' as at;

.values {
  display: flex;
  flex-wrap: wrap;
  gap: 0.2rem 3rem;
}
.values p {
  margin: 0;
}
.working-value small {
  font-size: 0.4em;
}
/* Words are longer than figures. */
.picked {
  font-size: 0.45em;
}
.how {
  font-size: 1.25rem;
  font-weight: 600;
  min-height: 1.6em;
  margin: 0.2rem 0 0.4rem;
}
.take {
  display: grid;
  grid-template-columns: minmax(0, 1fr) max-content max-content;
  gap: 0.5rem 1rem;
  align-items: start;
}
.take > .btn-run {
  margin-top: 1.75rem;
  min-width: 130px;
}
@include at.hand {
  .values {
    flex-wrap: nowrap;
    justify-content: space-between;
    gap: 1rem;
  }
  .take {
    grid-template-columns: minmax(0, 1fr) max-content;
    gap: 0.5rem;
  }
  .take > .btn-run {
    margin-top: 0;
  }
  kbd {
    display: none;
  }
}
</style>
