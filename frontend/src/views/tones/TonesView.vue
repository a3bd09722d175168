<script setup lang="ts">
/** Test signals: played by this device, or saved for a stick, a disc or a phone. */
import { computed, onScopeDispose, reactive, ref, watch } from 'vue';
import { api, type PlayedSignal, Refusal, signalAddress } from '@/api/client';
import CautionList from '@/components/CautionList.vue';
import QuantityField from '@/components/QuantityField.vue';
import SelectField from '@/components/SelectField.vue';
import { useHeading } from '@/composables/useHeading';
import { newAudio, playFile, type Playing } from '@/support/audio';

useHeading();
const KINDS: { value: PlayedSignal['kind']; text: string }[] = [
  { value: 'sine', text: 'Sine' },
  { value: 'sweep', text: 'Sweep' },
  { value: 'pink_noise', text: 'Pink noise' },
  { value: 'level_steps', text: 'Level steps' },
  { value: 'silence', text: 'Silence' },
];
const LEVELS = [0, -3, -5, -6, -10, -12, -20].map((value) => ({
  value,
  text: `${value < 0 ? '−' : ''}${Math.abs(value)} dBFS`,
}));
const CAUTIONS = [
  {
    key: 'speakers-off',
    text: 'Steady tones burn speakers. Keep every speaker disconnected. If one plays, stop.',
  },
];
const signal = reactive<PlayedSignal>({
  kind: 'sine',
  frequency_hz: 1000,
  level_dbfs: 0,
  seconds: 10,
  from_hz: 20,
  to_hz: 20_000,
});
const toned = computed(() => signal.kind === 'sine' || signal.kind === 'level_steps');
const loops = computed(() => ['sine', 'pink_noise', 'silence'].includes(signal.kind));
const MOST_S = 120;
/** Why there is no such signal; nothing where there is. */
const wrong = computed(() => {
  if (signal.seconds < 1 || signal.seconds > MOST_S) return `From 1 s to ${MOST_S} s.`;
  if (signal.kind === 'sweep' && signal.from_hz >= signal.to_hz)
    return 'A sweep goes up: give a lower frequency to begin with.';
  return '';
});
const says: Record<PlayedSignal['kind'], string> = {
  sine: 'Played here it goes on until it is stopped.',
  sweep: 'Each octave takes as long as the next. Nothing else may sound meanwhile.',
  pink_noise:
    'As much power in every octave, from 20 Hz to 20 kHz. Its RMS lies 20 dB below the level, its peaks do not.',
  level_steps: 'The sine at −20, −12, −6, −3 and 0 dB of its level, one after the other: volts must follow.',
  silence: 'Shows what noise and hum a source leaves with nothing played.',
};

let context: AudioContext | undefined;
let playing: Playing | undefined;
let turn = 0;
const sounding = ref(false);
const trouble = ref('');
function stop(): void {
  turn += 1;
  playing?.stop();
  playing = undefined;
  sounding.value = false;
}
async function play(): Promise<void> {
  stop();
  const mine = ++turn;
  trouble.value = '';
  try {
    context ??= newAudio();
    await context.resume();
    const file = await api.signal({ ...signal });
    if (mine !== turn) return;
    const begun = await playFile(context, file, loops.value, () => {
      if (mine === turn) sounding.value = false;
    });
    if (mine !== turn) return begun.stop();
    playing = begun;
    sounding.value = true;
  } catch (problem) {
    trouble.value =
      problem instanceof Refusal ? problem.message : 'This browser can’t play it: save the file instead.';
  }
}
// As the trade's discs have them: a sweep takes a minute.
watch(
  () => signal.kind,
  (kind) => (signal.seconds = kind === 'sweep' ? 60 : kind === 'level_steps' ? 5 : 10),
);
// A signal that was changed is another one: nothing goes on that the page no longer shows.
watch(signal, stop);
onScopeDispose(() => {
  stop();
  void context?.close();
});
</script>

<template>
  <div class="d-flex flex-wrap align-items-center justify-content-between gap-2 my-2">
    <h1 ref="heading" class="m-0" tabindex="-1">Tones</h1>
    <RouterLink class="btn btn-plain" :to="{ name: 'jobs' }">Jobs</RouterLink>
  </div>
  <p class="quiet">
    48 kHz, stereo, 16 bits; 0 dBFS is a sine whose peak is full scale. A job’s own tones are on its Plan, as
    a numbered set.
  </p>
  <CautionList :cautions="CAUTIONS" />
  <section class="sheet" aria-label="Test signal">
    <div class="fields">
      <SelectField v-model="signal.kind" label="Signal" :options="KINDS" />
      <QuantityField v-if="toned" v-model="signal.frequency_hz" label="Frequency" kind="hertz" />
      <template v-if="signal.kind === 'sweep'">
        <QuantityField v-model="signal.from_hz" label="From" kind="hertz" />
        <QuantityField v-model="signal.to_hz" label="To" kind="hertz" />
      </template>
      <SelectField
        v-if="signal.kind !== 'silence'"
        v-model="signal.level_dbfs"
        label="Level"
        :options="LEVELS"
      />
      <QuantityField v-model="signal.seconds" label="Length" kind="seconds" />
    </div>
    <p class="quiet">{{ says[signal.kind] }}</p>
    <div class="d-flex flex-wrap gap-2">
      <BButton
        variant="primary"
        :disabled="Boolean(wrong)"
        :aria-pressed="sounding"
        @click="sounding ? stop() : play()"
        >{{ sounding ? 'Stop' : 'Play here' }}</BButton
      >
      <template v-if="!wrong">
        <a class="btn btn-plain" :href="signalAddress('wav', signal)" download>Save as WAV</a>
        <a class="btn btn-plain" :href="signalAddress('flac', signal)" download>Save as FLAC</a>
      </template>
    </div>
    <p v-if="wrong" class="said-edge mb-0 mt-2" role="alert">{{ wrong }}</p>
    <p class="mb-0 mt-2" role="status">{{ sounding ? 'Playing.' : '' }}</p>
    <p v-if="trouble" class="said-clipped mb-0" role="alert">{{ trouble }}</p>
  </section>
</template>

<style scoped lang="scss">
@use '@/styles/breakpoints' as at;

.fields {
  display: grid;
  grid-template-columns: repeat(4, minmax(0, 1fr));
  gap: 0 0.8rem;
}
@include at.phone {
  .fields {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
