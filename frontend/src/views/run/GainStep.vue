<script setup lang="ts">
import { computed, ref } from 'vue';
import type { Comparison, MeterEvent, NewMark } from '@/api/client';
import type { RunDesk } from '@/composables/useRunDesk';
import { useSounds } from '@/composables/useSounds';
import { formatDoubt, formatValue, steadyNumber } from '@/support/quantity';
import { hasOwnEnter } from '@/support/keys';
import BandLine from './BandLine.vue';
import ReadingEntry from './ReadingEntry.vue';
import StepOrders from './StepOrders.vue';
import VolumeStepper from './VolumeStepper.vue';

const props = defineProps<{ desk: RunDesk; meter: MeterEvent | null; simulated: boolean }>();
const emit = defineEmits<{ volume: [number: number] }>();
const sounds = useSounds();
const entry = ref<InstanceType<typeof ReadingEntry> | null>(null);

const step = computed(() => props.desk.step.value);
const target = computed(() => step.value?.target ?? null);
const state = computed(() => props.desk.state.value);
const live = computed(() =>
  props.simulated && props.meter && !props.meter.elsewhere ? props.meter.sample.value_v : null,
);
const waiting = computed(() => props.desk.rungs.value.find((one) => one.waiting));
const last = computed(() => waiting.value ?? state.value?.reading ?? null);
const shown = computed(() => live.value ?? last.value?.voltage_v ?? null);
const doubt = computed(() =>
  live.value !== null ? props.meter?.sample.uncertainty_v : last.value?.uncertainty_v,
);
const comparison = computed<Comparison | null>(() => {
  if (live.value !== null) return props.meter?.comparison ?? null;
  return waiting.value ? null : (state.value?.comparison ?? null);
});
const ARROWS = { below: '▲', above: '▼', inside: '=', unsure: '≈' };
const TONES = { below: 'said-edge', above: 'said-clipped', inside: 'said-clean', unsure: 'said-clean' };
const offVolume = computed(() => step.value?.volume != null && props.desk.volume.value !== step.value.volume);
const wide = computed(() => comparison.value && ['below', 'above'].includes(comparison.value.fit));

function take(): boolean {
  const volts = entry.value?.take() ?? null;
  if (volts === null) {
    sounds.refused();
    return false;
  }
  props.desk.read(volts, 'unseen');
  sounds.taken();
  return true;
}

/** Says why the gain stands although the target was not met; a value just typed or shown live is taken first. */
function settle(outcome: NonNullable<NewMark['outcome']>): void {
  if ((entry.value?.hasText() || live.value !== null || !last.value) && !take()) return;
  props.desk.say({ outcome });
}

function handleKey(event: KeyboardEvent): boolean {
  const acts: Record<string, () => void> = {
    ArrowUp: () => emit('volume', props.desk.volume.value + 1),
    ArrowDown: () => emit('volume', props.desk.volume.value - 1),
    x: () => settle('clipped_first'),
    g: () => settle(comparison.value?.fit === 'above' ? 'above_at_lowest' : 'at_stop'),
    ...(hasOwnEnter(event) ? {} : { Enter: () => void take() }),
  };
  const act = acts[event.key.length === 1 ? event.key.toLowerCase() : event.key];
  if (act) {
    act();
    return true;
  }
  return entry.value?.begin(event) ?? false;
}
defineExpose({ handleKey });
</script>

<template>
  <template v-if="step && target">
    <p v-if="step.waits_for" class="waits">{{ step.waits_for }}</p>
    <StepOrders :step="step" />
    <div class="sheet mt-2">
      <div class="values">
        <div>
          <span class="quiet fw-bold">Wanted</span>
          <p class="working-value digits" aria-label="Volts wanted">
            {{ steadyNumber(target.value) }}<small> V</small>
          </p>
        </div>
        <div>
          <span class="quiet fw-bold"
            >{{ live !== null ? 'Now' : 'Last taken' }}
            {{ shown === null ? '' : formatDoubt(doubt) + ' V' }}</span
          >
          <p
            class="working-value digits"
            :class="comparison ? TONES[comparison.fit] : ''"
            aria-label="Volts now"
          >
            {{ shown === null ? '–' : steadyNumber(shown) }}<small> V</small>
          </p>
        </div>
      </div>
      <BandLine :target="target" :value="shown" />
      <p class="how" role="status">
        <template v-if="simulated && meter?.elsewhere"
          >The meter is clipped on another point: move the probe.</template
        >
        <template v-else-if="waiting && live === null"
          >Kept on this device; judged when it is saved.</template
        >
        <span v-else-if="comparison" :class="TONES[comparison.fit]">
          <span aria-hidden="true">{{ ARROWS[comparison.fit] }}</span> {{ comparison.sentence }}
        </span>
        <template v-else
          >Accepted from {{ formatValue(target.limits.low, 'V') }} to
          {{ formatValue(target.limits.high, 'V') }}.</template
        >
      </p>
      <div class="take">
        <ReadingEntry ref="entry" :live="live" label="Volts at the speaker terminals" />
        <BButton class="btn-run" variant="primary" @click="take">Take it <kbd>Enter</kbd></BButton>
        <VolumeStepper
          :volume="desk.volume.value"
          :top="desk.topVolume.value"
          @volume="(number) => emit('volume', number)"
        />
      </div>
      <p v-if="offVolume" class="said-edge fw-bold mb-0">
        The volume is at {{ desk.volume.value }}; this gain is set at {{ step.volume }}.
      </p>
    </div>
    <div class="mt-3">
      <p v-if="state?.state === 'done'" class="said-clean fs-5 fw-bold mb-2">✓ Taken. {{ state.sentence }}</p>
      <p v-else-if="step.kind === 'gain'" class="mb-2">
        Not reachable? Clips first: back off until the wave is clean and take that. At its stop: take what it
        gives.
      </p>
      <div v-if="step.kind === 'gain' && state?.state !== 'done'" class="d-flex flex-wrap gap-2">
        <BButton class="btn-run" variant="plain" @click="settle('clipped_first')"
          >It clips first <kbd>X</kbd></BButton
        >
        <BButton
          class="btn-run"
          variant="plain"
          @click="settle(comparison?.fit === 'above' ? 'above_at_lowest' : 'at_stop')"
        >
          {{ comparison?.fit === 'above' ? 'Knob is fully down' : 'Knob is at its stop' }} <kbd>G</kbd>
        </BButton>
      </div>
      <p v-else-if="step.kind === 'match' && wide" class="mb-0">
        The channels differ. Check that the lead sits fully in its socket and the balance is centred before
        going on, or skip with the reason.
      </p>
    </div>
  </template>
</template>

<style scoped>
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
.waits {
  padding: 0.4rem 0.8rem;
  border-left: 6px solid var(--ochre);
  background: var(--ochre-wash);
  font-weight: 600;
}
@media (max-width: 600px) {
  .take {
    grid-template-columns: minmax(0, 1fr);
  }
  .take > .btn-run {
    margin-top: 0;
    order: -1;
  }
  .take > .entry {
    order: -2;
  }
  kbd {
    display: none;
  }
}
</style>
