<script setup lang="ts">
/** Test signals: played by this device, or saved for a stick, a disc or a phone. */
import { useQuery } from '@tanstack/vue-query';
import { computed, reactive, ref, watch } from 'vue';
import { api, type PlayedSignal, Refusal, signalAddress } from '@/api/client';
import CautionList from '@/components/CautionList.vue';
import QuantityField from '@/components/QuantityField.vue';
import SelectField from '@/components/SelectField.vue';
import { useAudio } from '@/composables/useAudio';
import { useDoor } from '@/composables/useDoor';
import { useHeading } from '@/composables/useHeading';
import { formatValue } from '@/support/quantity';

useHeading();
const { away } = useDoor();
const { data: choices, error: unknown } = useQuery({
  queryKey: ['signal-choices'],
  queryFn: api.signalChoices,
  staleTime: Infinity,
});
const kinds = computed(() => choices.value?.kinds.map(({ kind, label }) => ({ value: kind, text: label })));
const levels = computed(() =>
  choices.value?.levels_dbfs.map((value) => ({ value, text: formatValue(value, 'dBFS') })),
);
const signal = reactive({
  kind: 'sine' as NonNullable<PlayedSignal['kind']>,
  frequency_hz: 1000,
  level_dbfs: 0,
  seconds: 10,
  from_hz: 20,
  to_hz: 20_000,
});
const chosen = computed(() => choices.value?.kinds.find(({ kind }) => kind === signal.kind));
watch(chosen, (now) => now && (signal.seconds = now.usual_s));

/** The signal's name as the server has it, or why there is no such signal. */
const { data: named, error } = useQuery({
  queryKey: computed(() => ['signal', { ...signal }]),
  queryFn: () => api.signalName({ ...signal }),
  staleTime: Infinity,
  retry: false,
});
/** A server that isn't there refuses no signal: Play says so then. */
const refused = computed(() =>
  error.value instanceof Refusal && !error.value.passing ? error.value.sentence : '',
);
const says = computed(() => (named.value ? `Playing: ${named.value.label}.` : 'Playing.'));

const audio = useAudio();
const { sounding } = audio;
const trouble = ref('');
async function play(): Promise<void> {
  trouble.value = '';
  try {
    await audio.play(() => api.signal({ ...signal }), Boolean(chosen.value?.loops));
  } catch (problem) {
    trouble.value =
      problem instanceof Refusal ? problem.message : 'This browser can’t play it: save the file instead.';
  }
}
// A signal that was changed is another one: nothing goes on that the page no longer shows.
watch(signal, audio.stop);
watch(away, audio.stop);
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
  <p v-if="unknown" class="said-clipped" role="alert">{{ unknown.message }}</p>
  <template v-if="choices && chosen">
    <CautionList :cautions="choices.cautions" />
    <section class="sheet" aria-label="Test signal">
      <div class="fields">
        <SelectField v-model="signal.kind" label="Signal" :options="kinds ?? []" />
        <QuantityField
          v-if="chosen.one_frequency"
          v-model="signal.frequency_hz"
          label="Frequency"
          kind="hertz"
        />
        <template v-if="chosen.two_frequencies">
          <QuantityField v-model="signal.from_hz" label="From" kind="hertz" />
          <QuantityField v-model="signal.to_hz" label="To" kind="hertz" />
        </template>
        <SelectField
          v-if="chosen.leveled"
          v-model="signal.level_dbfs"
          label="Level"
          :options="levels ?? []"
        />
        <QuantityField v-model="signal.seconds" label="Length" kind="seconds" />
      </div>
      <p v-if="refused" class="said-edge" role="alert">{{ refused }}</p>
      <p v-else class="quiet">{{ chosen.about }}</p>
      <div class="d-flex flex-wrap gap-2">
        <BButton
          variant="primary"
          :disabled="Boolean(refused)"
          :aria-pressed="sounding"
          @click="sounding ? audio.stop() : play()"
          >{{ sounding ? 'Stop' : 'Play here' }}</BButton
        >
        <template v-if="!refused">
          <a class="btn btn-plain" :href="signalAddress('wav', signal)" download>Save as WAV</a>
          <a class="btn btn-plain" :href="signalAddress('flac', signal)" download>Save as FLAC</a>
        </template>
      </div>
      <p class="mb-0 mt-2" role="status">{{ sounding ? says : '' }}</p>
      <p v-if="trouble" class="said-clipped mb-0" role="alert">{{ trouble }}</p>
    </section>
  </template>
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
