<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query';
import { computed, ref, useId } from 'vue';
import { api, type CaptureEntry, captureAddress, Refusal } from '@/api/client';
import NoteBox from '@/components/NoteBox.vue';
import { useJob } from '@/composables/useJob';
import { formatValue } from '@/support/quantity';
import { whenInWords } from '@/support/words';
import ChannelSheet from './ChannelSheet.vue';
import VolumeStepsSheet from './VolumeStepsSheet.vue';

const props = defineProps<{ job: string; capture: string; others: readonly CaptureEntry[] }>();
const { view } = useJob();
const queries = useQueryClient();
const ids = { over: useId(), reading: useId() };
const { data, error } = useQuery({
  queryKey: computed(() => ['captures', props.job, props.capture]),
  queryFn: () => api.capture(props.job, props.capture),
});
const channels = computed(() => data.value?.examination.channels ?? []);
const number = ref(0);
const channel = computed(() => channels.value[number.value] ?? channels.value[0]);

const laidOver = ref('');
const { data: other } = useQuery({
  queryKey: computed(() => ['captures', props.job, laidOver.value]),
  queryFn: () => api.capture(props.job, laidOver.value),
  enabled: computed(() => laidOver.value !== ''),
});
const waves = computed(() =>
  props.others.filter((other) => other.id !== props.capture && other.kind !== 'ladder'),
);
const laid = computed(() => (laidOver.value ? (other.value?.examination.channels?.[0] ?? null) : null));
const overOptions = computed(() => [
  { value: '', text: 'nothing' },
  ...waves.value.map((wave) => ({ value: wave.id, text: `${wave.name}: ${wave.headline}` })),
]);

const attachedLongAgo = computed(() => {
  const attached = data.value?.reading_id;
  return attached && !view.value?.readings?.some((reading) => reading.id === attached) ? attached : null;
});
const readingOptions = computed(() => [
  { value: '', text: 'no reading' },
  ...(view.value?.readings ?? [])
    .filter((reading) => !reading.struck)
    .map((reading) => {
      const step = view.value?.run.steps.find((other) => other.key === reading.step);
      return {
        value: reading.id,
        text: `${step?.name ?? reading.step}: ${formatValue(reading.value, 'V')} at ${reading.circumstances.volume}`,
      };
    })
    .reverse(),
  // The page has the newest readings of each step.
  ...(attachedLongAgo.value ? [{ value: attachedLongAgo.value, text: 'an earlier reading' }] : []),
]);

const sentence = ref('');
async function change(work: () => Promise<unknown>): Promise<void> {
  sentence.value = '';
  try {
    await work();
    await queries.invalidateQueries({ queryKey: ['captures', props.job] });
  } catch (problem) {
    if (!(problem instanceof Refusal)) throw problem;
    sentence.value = problem.message;
  }
}
const attach = (reading: unknown) =>
  change(() => api.attachCapture(props.job, props.capture, String(reading ?? '') || null));
const strike = () => change(() => api.strikeCapture(props.job, props.capture, 'undone'));
const renaming = ref(false);
const called = ref('');
function beginRenaming(): void {
  called.value = data.value?.name ?? '';
  renaming.value = true;
}
async function rename(): Promise<void> {
  await change(() => api.renameCapture(props.job, props.capture, called.value));
  renaming.value = sentence.value !== '';
}
const putBack = () => change(() => api.putCaptureBack(props.job, props.capture));
</script>

<template>
  <p v-if="error" class="said-clipped" role="alert">{{ error.message }}</p>
  <p v-else-if="!data" class="quiet" role="status">Opening the capture …</p>
  <article v-else class="d-grid gap-3">
    <header class="d-flex flex-wrap align-items-center justify-content-between gap-2">
      <div>
        <form v-if="renaming" class="d-flex gap-2" @submit.prevent="rename">
          <BFormInput v-model="called" aria-label="Name of the capture" maxlength="80" autofocus />
          <BButton type="submit" variant="primary">Rename</BButton>
        </form>
        <h2 v-else class="h4 m-0 name">{{ data.name }}</h2>
        <span class="quiet">{{ whenInWords(data.taken_at) }}{{ data.by ? `, ${data.by}` : '' }}</span>
        <strong v-if="data.struck" class="said-edge"> Struck out: {{ data.struck }}</strong>
      </div>
      <div class="d-flex gap-2">
        <BButton v-if="!renaming" variant="plain" @click="beginRenaming">Rename</BButton>
        <a class="btn btn-plain" :href="captureAddress(job, capture)" download>The file</a>
        <BButton v-if="data.struck" variant="plain" @click="putBack">Put it back</BButton>
        <BButton v-else variant="plain" @click="strike">Strike out</BButton>
      </div>
    </header>
    <NoteBox v-if="data.same_as" kind="edge">The same file came before, as “{{ data.same_as }}”.</NoteBox>
    <p v-if="sentence" class="said-clipped m-0" role="alert">{{ sentence }}</p>
    <nav v-if="channels.length > 1" class="d-flex flex-wrap gap-2" aria-label="Channels">
      <BButton
        v-for="(judged, index) in channels"
        :key="index"
        :variant="judged === channel ? 'primary' : 'plain'"
        :aria-pressed="judged === channel"
        @click="number = index"
      >
        {{ judged.name }}
      </BButton>
    </nav>
    <ChannelSheet v-if="channel" :channel="channel" :laid="laid">
      <template #under>
        <div v-if="waves.length && !channel.sweep && !channel.spectrum" class="lay">
          <label :for="ids.over">Lay over it, dashed</label>
          <BFormSelect :id="ids.over" v-model="laidOver" :options="overOptions" />
        </div>
      </template>
    </ChannelSheet>
    <VolumeStepsSheet v-else-if="data.examination.ladder" :view="data.examination.ladder" />
    <NoteBox v-else-if="data.examination.unjudged" kind="edge">
      {{ data.examination.unjudged }} The file is kept as it came.
    </NoteBox>
    <div class="sheet lay">
      <label :for="ids.reading">Belongs to</label>
      <BFormSelect
        :id="ids.reading"
        :model-value="data.reading_id ?? ''"
        :options="readingOptions"
        @update:model-value="attach"
      />
      <NoteBox
        v-if="data.agreement"
        class="agreement"
        :kind="data.agreement.agree === false ? 'edge' : 'plain'"
      >
        {{ data.agreement.sentence }} {{ data.agreement.reasons?.join(' ') }}
      </NoteBox>
    </div>
  </article>
</template>

<style scoped>
.name {
  overflow-wrap: anywhere;
}
.lay {
  display: grid;
  grid-template-columns: max-content minmax(0, 1fr);
  align-items: center;
  gap: 0.4rem 0.8rem;
  padding: 0.6rem 0.8rem;
}
.agreement {
  grid-column: 1 / -1;
  margin: 0;
}
.lay label {
  font-weight: 600;
}
</style>
