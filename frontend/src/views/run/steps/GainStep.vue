<script setup lang="ts">
/** The gain: turn until the wanted volts show, or say why they don't. */
import { computed, ref, watch } from 'vue';
import type { NewMark } from '@/api/client';
import FoldBox from '@/components/FoldBox.vue';
import SelectField from '@/components/SelectField.vue';
import { useSounds } from '@/composables/useSounds';
import { pressed } from '@/support/keys';
import { formatValue } from '@/support/quantity';
import WantedNow from '../WantedNow.vue';
import type { StepProps } from '.';

const props = defineProps<StepProps>();
const emit = defineEmits<{ volume: [number: number] }>();
const sounds = useSounds();
const wanted = ref<InstanceType<typeof WantedNow> | null>(null);

watch(
  () => props.meter,
  (event) => event?.comparison && sounds.near(event.comparison),
);

/** Says why the gain stands although the target was not met; which end a stop is, the reading says. */
function settle(outcome: NonNullable<NewMark['outcome']>): void {
  wanted.value?.withReading(() => props.desk.say({ outcome }));
}

/** Why a target may be missed and the reading stand: the buttons and their keys. */
const OUTCOMES: Partial<Record<NonNullable<NewMark['outcome']>, { text: string; key: string }>> = {
  clipped_first: { text: 'It clips first', key: 'x' },
  at_stop: { text: 'Knob at its end', key: 'g' },
  limited: { text: 'Limiter holds it', key: 'l' },
};
const outcomes = computed(() =>
  (props.desk.step.value?.outcomes ?? []).flatMap((value) => {
    const told = OUTCOMES[value];
    return told ? [{ value, ...told }] : [];
  }),
);

/** What may be noted beside the volts, once there are any. */
const beside = (key: string) => props.desk.step.value?.beside?.find((row) => row.key === key);
const lower = computed(() => (props.desk.state.value?.reading ? beside('half') : undefined));
const clipping = computed(() => (props.desk.state.value?.reading ? beside('clips') : undefined));
const loaded = computed(() => (props.desk.state.value?.reading ? beside('loaded') : undefined));
const knob = computed(() => (props.desk.state.value?.reading ? beside('knob') : undefined));
const position = computed({
  get: () => props.desk.state.value?.position?.value ?? null,
  set: (value: number | null) => {
    if (knob.value && value !== null) props.desk.read(value, 'unseen', null, knob.value);
  },
});
const positions = computed(() => [
  { value: null as number | null, text: 'not set' },
  ...(knob.value?.choices ?? []).map((choice) => ({
    value: choice.value as number | null,
    text: choice.text,
  })),
]);
const half = computed(() => props.desk.state.value?.half?.value ?? null);
const clipsAt = computed(() => props.desk.state.value?.clips_at?.value ?? null);
const clipsLoaded = computed(() => props.desk.state.value?.clips_with_resistors?.value ?? null);

function handleKey(event: KeyboardEvent): boolean {
  const acts: Record<string, () => void> = {
    c: () => void wanted.value?.take('clean'),
    h: () => void (lower.value && wanted.value?.take('unseen', lower.value)),
    m: () => void (loaded.value && wanted.value?.take('unseen', loaded.value)),
    n: () => void (clipping.value && wanted.value?.take('unseen', clipping.value)),
    ...Object.fromEntries(outcomes.value.map((outcome) => [outcome.key, () => settle(outcome.value)])),
  };
  return pressed(event, acts) || (wanted.value?.handleKey(event) ?? false);
}
defineExpose({ handleKey });
</script>

<template>
  <WantedNow v-slot="{ done }" ref="wanted" v-bind="props" @volume="(number) => emit('volume', number)">
    <div v-if="lower" class="beside">
      <div>
        <BButton class="btn-run" variant="plain" @click="wanted?.take('unseen', lower)">
          Save with the tone 6 dB lower <kbd>H</kbd>
        </BButton>
        <p class="quiet mb-0" role="status">
          <template v-if="half !== null">{{ formatValue(half, 'V') }} with {{ lower.play }}.</template>
          <template v-else>Meter only: it should read half of the volts. More means it clips.</template>
        </p>
      </div>
      <div v-if="clipping">
        <BButton class="btn-run" variant="plain" @click="wanted?.take('unseen', clipping)">
          Save where it just clips <kbd>N</kbd>
        </BButton>
        <p class="quiet mb-0" role="status">
          <template v-if="clipsAt !== null"
            >It clips above {{ formatValue(clipsAt, 'V') }} with nothing at its terminals.</template
          >
          <template v-else>Scope: turn further up to the last clean volts, save them, turn back.</template>
        </p>
        <FoldBox v-if="loaded" title="Check with load resistors" :open="clipsLoaded !== null">
          <BButton class="btn-run" variant="plain" @click="wanted?.take('unseen', loaded)">
            Save where it clips with resistors <kbd>M</kbd>
          </BButton>
          <p class="quiet mb-0" role="status">
            <template v-if="clipsLoaded !== null"
              >It clips above {{ formatValue(clipsLoaded, 'V') }} with load resistors.</template
            >
            {{ loaded.note }}
          </p>
        </FoldBox>
      </div>
      <SelectField v-if="knob" v-model="position" :label="knob.name" :options="positions" />
    </div>
    <template v-if="!done">
      <p class="mb-2">
        Can’t reach it? If it clips first, turn back until the wave is clean and save that. If the knob is at
        its end, save what it gives.
      </p>
      <div class="d-flex flex-wrap gap-2">
        <BButton class="btn-run" variant="clean" @click="wanted?.take('clean')"
          >Seen clean <kbd>C</kbd></BButton
        >
        <BButton
          v-for="outcome in outcomes"
          :key="outcome.value"
          class="btn-run"
          variant="plain"
          @click="settle(outcome.value)"
          >{{ outcome.text }} <kbd>{{ outcome.key.toUpperCase() }}</kbd></BButton
        >
      </div>
    </template>
  </WantedNow>
</template>

<style scoped lang="scss">
.beside {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(16rem, 1fr));
  gap: 0.6rem 1.5rem;
  align-items: start;
  margin-bottom: 0.8rem;
}
</style>
