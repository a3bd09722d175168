<script setup lang="ts">
/** A step by ear: one speaker is on, the tone short, and a verdict is all that is saved. */
import { computed, ref } from 'vue';
import type { StepState } from '@/api/client';
import NoteBox from '@/components/NoteBox.vue';
import VerdictMark from '@/components/VerdictMark.vue';
import { useSounds } from '@/composables/useSounds';
import { pressed } from '@/support/keys';
import ListenTimer from '../ListenTimer.vue';
import NeedGate from '../NeedGate.vue';
import StepOrders from '../StepOrders.vue';
import VolumeStepper from '../VolumeStepper.vue';
import type { StepProps } from '.';

const props = defineProps<StepProps>();
const emit = defineEmits<{ volume: [number: number] }>();
type Offer = NonNullable<NonNullable<StepState['volume_steps']>['offers']>[number];
const sounds = useSounds();
const timer = ref<InstanceType<typeof ListenTimer> | null>(null);

const step = computed(() => props.desk.step.value);
const state = computed(() => props.desk.state.value);
const volumeSteps = computed(() => state.value?.volume_steps);
const isDone = computed(() => state.value?.state === 'done');
const rows = computed(() => [...props.desk.volumeReadings.value].reverse());
/** Only numbers that were heard clean are offered: nothing else is known. */
const offer = computed<Offer | undefined>(() =>
  isDone.value
    ? undefined
    : volumeSteps.value?.offers?.find((offer) => offer.basis === 'marked' && !offer.note),
);

function save(seen: 'clean' | 'clipped'): void {
  if (!props.gate.isOpen()) return sounds.refused();
  const number = props.desk.volume.value;
  const wants = step.value?.wants ?? {};
  if (!props.desk.read(0, seen, null, { quantity: 'verdict', wants })) return;
  sounds.taken();
  if (volumeSteps.value) emit('volume', volumeSteps.value.next_after[seen][number] ?? number);
}
function accept(offer: Offer | undefined): void {
  if (!offer) return;
  props.desk.say({ basis: offer.basis, volume: offer.volume });
  sounds.taken();
}

function handleKey(event: KeyboardEvent): boolean {
  return pressed(event, {
    ArrowUp: () => emit('volume', props.desk.volume.value + 1),
    ArrowDown: () => emit('volume', props.desk.volume.value - 1),
    c: () => save('clean'),
    x: () => save('clipped'),
    l: () => timer.value?.start(),
    t: () => accept(offer.value),
  });
}
defineExpose({ handleKey });
</script>

<template>
  <NeedGate :gate="gate" :desk="desk" />
  <StepOrders v-if="step" :step="step" />
  <div class="sheet work mt-2">
    <VolumeStepper
      v-if="step?.top_volume"
      :volume="desk.volume.value"
      :top="desk.topVolume.value"
      @volume="(number) => emit('volume', number)"
    />
    <ListenTimer ref="timer" class="mt-2" />
    <div class="buttons">
      <BButton class="btn-run" variant="clean" @click="save('clean')">Clean <kbd>C</kbd></BButton>
      <BButton class="btn-run" variant="clipped" @click="save('clipped')">Harsh <kbd>X</kbd></BButton>
    </div>
  </div>
  <NoteBox v-for="question in volumeSteps?.questions ?? []" :key="question" class="mt-3" kind="edge">{{
    question
  }}</NoteBox>
  <p class="fs-5 mt-3 mb-2" role="status">
    <strong v-if="isDone" class="said-clean">Saved: {{ state?.sentence }}</strong>
    <template v-else>{{ volumeSteps?.next_step ?? state?.sentence }}</template>
  </p>
  <BButton v-if="offer" class="btn-run" variant="primary" @click="accept(offer)"
    >{{ offer.words }} <kbd>T</kbd></BButton
  >
  <table v-if="rows.length" class="table digits mt-2" aria-label="Heard so far">
    <thead>
      <tr>
        <th scope="col">Volume</th>
        <th scope="col">Heard</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="row in rows" :key="row.id">
        <th scope="row">{{ row.volume }}</th>
        <td><VerdictMark :verdict="row.seen ?? 'unseen'" /></td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.buttons {
  margin-top: 0.6rem;
  display: grid;
  grid-template-columns: repeat(2, 1fr);
  gap: 0.5rem;
}
</style>
