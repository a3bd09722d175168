<script setup lang="ts">
import { computed, ref } from 'vue';
import type { NewReading, StepState } from '@/api/client';
import FoldBox from '@/components/FoldBox.vue';
import VolumeStepsPaper from '@/components/VolumeStepsPaper.vue';
import NoteBox from '@/components/NoteBox.vue';
import VerdictMark from '@/components/VerdictMark.vue';
import SelectField from '@/components/SelectField.vue';
import { useWhenSteady } from '@/composables/useWhenSteady';
import { usePreferences } from '@/composables/usePreferences';
import { useSounds } from '@/composables/useSounds';
import { formatDoubt, formatValue, steadyNumber } from '@/support/quantity';
import { pressed } from '@/support/keys';
import NeedGate from '../NeedGate.vue';
import ReadingEntry from '../ReadingEntry.vue';
import StepOrders from '../StepOrders.vue';
import VolumeStepper from '../VolumeStepper.vue';
import type { StepProps } from '.';

const props = defineProps<StepProps>();
const emit = defineEmits<{ volume: [number: number] }>();
type Offer = NonNullable<NonNullable<StepState['volume_steps']>['offers']>[number];
const sounds = useSounds();
const preferences = usePreferences();
const EVIDENCE = [
  { value: 'eye' as const, text: 'eye, on a scope' },
  { value: 'lamp' as const, text: 'a clip light or distortion lamp' },
  { value: 'ear' as const, text: 'ear' },
];
const entry = ref<InstanceType<typeof ReadingEntry> | null>(null);

const volumeSteps = computed(() => props.desk.state.value?.volume_steps);
const cleanMaximum = computed(() => props.desk.state.value?.clean_maximum);
const metered = computed(() =>
  props.simulated && props.meter && !props.meter.elsewhere ? props.meter : null,
);
const live = computed(() => metered.value?.sample.value_v ?? null);
const shown = computed(() => live.value ?? props.desk.volumeReadings.value.at(-1)?.value ?? null);
const shownLabel = computed(() => {
  const last = props.desk.volumeReadings.value.at(-1);
  if (live.value !== null) return `Now, at ${props.desk.volume.value}`;
  return last ? `Last saved, at ${last.volume}` : 'No reading yet';
});
/** What can be taken and isn't yet. */
const offers = computed<Offer[]>(() =>
  (volumeSteps.value?.offers ?? []).filter(
    (offer) => offer.basis !== cleanMaximum.value?.basis || offer.volume !== cleanMaximum.value.volume,
  ),
);
/** What one key takes: never a number that is lower on purpose, which a key pressed twice would take. */
const offered = computed(() => offers.value.find(({ note }) => !note));
/** What the source's sheet says, as long as nothing here speaks against it. */
const told = computed(() => {
  const sheet = volumeSteps.value?.sheet;
  return sheet && sheet.agrees !== false ? sheet : null;
});
const rows = computed(() => [...props.desk.volumeReadings.value].reverse());

type Seen = NonNullable<NewReading['seen']>;
const { whenSteady, waits } = useWhenSteady(
  () => props.settling && metered.value !== null,
  () => props.desk.volume.value,
);
function take(seen: Seen): void {
  if (!props.gate.isOpen()) return sounds.refused();
  if (entry.value?.hasText()) save(seen);
  else whenSteady(() => save(seen));
}
function save(seen: Seen): void {
  const volts = entry.value?.take() ?? null;
  if (volts === null) return sounds.refused();
  const number = props.desk.volume.value;
  if (!props.desk.read(volts, seen, metered.value)) return;
  sounds.taken();
  emit('volume', volumeSteps.value?.next_after[seen][number] ?? number);
}

function accept({ basis, volume, note }: Offer): void {
  props.desk.say({ basis, volume, ...(note ? { note } : {}) });
  sounds.taken();
}

function handleKey(event: KeyboardEvent): boolean {
  const acts: Record<string, () => void> = {
    ArrowUp: () => emit('volume', props.desk.volume.value + 1),
    ArrowDown: () => emit('volume', props.desk.volume.value - 1),
    c: () => take('clean'),
    x: () => take('clipped'),
    t: () => offered.value && accept(offered.value),
    Enter: () => take('unseen'),
  };
  return pressed(event, acts) || (entry.value?.begin(event) ?? false);
}
defineExpose({ handleKey });
</script>

<template>
  <NeedGate :gate="gate" :desk="desk" />
  <StepOrders v-if="desk.step.value" :step="desk.step.value" :exact="told !== null" />
  <div class="sheet work mt-2">
    <p v-if="simulated && meter?.elsewhere" class="said-edge fw-bold mb-1">
      Probe is on the wrong point: move it to the source.
    </p>
    <p v-else-if="metered?.other_tone" class="said-edge fw-bold mb-1">{{ metered.other_tone }}</p>
    <div class="now">
      <span class="quiet fw-bold">{{ shownLabel }}</span>
      <p class="working-value digits" aria-label="Volts now">
        {{ shown === null ? '–' : steadyNumber(shown) }}<small> V</small>
      </p>
      <p v-if="told" class="told quiet">
        by its sheet {{ formatValue(told.voltage_v, 'V', 3) }} ±
        {{ formatValue(told.uncertainty_v, 'V', 2) }} at {{ told.volume }}
      </p>
    </div>
    <div class="take">
      <VolumeStepper
        :volume="desk.volume.value"
        :top="desk.topVolume.value"
        @volume="(number) => emit('volume', number)"
      />
      <ReadingEntry ref="entry" :live="live" :label="`Volts at ${desk.volume.value}`" />
    </div>
    <div class="buttons whole">
      <BButton class="btn-run" variant="clean" @click="take('clean')">Clean <kbd>C</kbd></BButton>
      <BButton class="btn-run" variant="clipped" @click="take('clipped')">Clipped <kbd>X</kbd></BButton>
      <BButton class="btn-run" variant="plain" @click="take('unseen')">Can’t tell <kbd>Enter</kbd></BButton>
    </div>
    <p v-if="waits" class="quiet mb-0" role="status">Settling …</p>
  </div>
  <div v-if="volumeSteps" class="mt-3">
    <NoteBox v-for="question in volumeSteps.questions" :key="question" kind="edge">{{ question }}</NoteBox>
    <p class="fs-5 mb-2" role="status">
      <strong v-if="cleanMaximum && desk.state.value?.state === 'done'" class="said-clean"
        >Saved: {{ desk.state.value.sentence }}</strong
      >
      <template v-else>{{ volumeSteps.next_step }}</template>
    </p>
    <div class="d-flex flex-wrap gap-2">
      <BButton
        v-for="offer in offers"
        :key="`${offer.basis} ${offer.volume}`"
        class="btn-run"
        :variant="offer !== offered || offer.basis === 'guess' ? 'plain' : 'primary'"
        @click="accept(offer)"
      >
        {{ offer.words }} <kbd v-if="offer === offered">T</kbd>
      </BButton>
      <BButton
        v-if="!volumeSteps.last_clean && !volumeSteps.by_volts && !volumeSteps.fallback"
        class="btn-run"
        variant="plain"
        @click="emit('volume', volumeSteps.fallback_volume)"
        >Three quarters: {{ volumeSteps.fallback_volume }}</BButton
      >
    </div>
    <SelectField v-model="preferences.evidence" class="by mt-2" label="Judged by" :options="EVIDENCE" />
    <FoldBox
      v-if="volumeSteps.judged && volumeSteps.judged.report.verdict !== 'cannot_tell'"
      class="mt-2"
      title="How the volts bend"
    >
      <VolumeStepsPaper :view="volumeSteps.judged" :tall="200" />
      <p v-for="reason in volumeSteps.judged.report.reasons" :key="reason" class="quiet mb-1">{{ reason }}</p>
    </FoldBox>
    <table v-if="rows.length" class="table digits mt-2" aria-label="Readings of the source">
      <thead>
        <tr>
          <th scope="col">Volume</th>
          <th scope="col">Volts</th>
          <th scope="col">Wave</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in rows" :key="row.id">
          <th scope="row">{{ row.volume }}</th>
          <td>
            {{ formatValue(row.value, 'V') }}
            <span class="quiet">{{ row.waiting ? 'waiting to be sent' : formatDoubt(row.uncertainty) }}</span>
          </td>
          <td><VerdictMark :verdict="row.seen ?? 'unseen'" /></td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped lang="scss">
@use '@/styles/breakpoints' as at;

.take {
  display: grid;
  grid-template-columns: max-content minmax(0, 1fr);
  gap: 0.5rem 1.5rem;
  align-items: start;
}
.by {
  max-width: 18rem;
}
.by :deep(.about) {
  display: none;
}
.buttons {
  margin-top: 0.6rem;
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 0.5rem;
}
.now p {
  margin: 0 0 0.5rem;
}
.now .told {
  flex-basis: 100%;
}
.working-value small {
  font-size: 0.4em;
}
@include at.hand {
  .now {
    display: flex;
    flex-wrap: wrap;
    align-items: baseline;
    justify-content: space-between;
    gap: 1rem;
  }
  .now p {
    margin: 0;
  }
  .take {
    gap: 0.5rem;
  }
  .buttons kbd {
    display: none;
  }
}
</style>
