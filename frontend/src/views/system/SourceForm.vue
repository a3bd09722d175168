<script setup lang="ts">
/** The source of a path: what it is, its outputs, and what it is set to. */
import { computed } from 'vue';
import type { Chain, JobSheet, Path, Source } from '@/api/client';
import CheckField from '@/components/CheckField.vue';
import QuantityField from '@/components/QuantityField.vue';
import SelectField from '@/components/SelectField.vue';
import TextField from '@/components/TextField.vue';
import { useNewParts } from '@/composables/useNewParts';
import { SOURCE_KINDS } from '@/support/sources';
import { newId, takeOut } from '@/support/ids';
import FromLibrary from './FromLibrary.vue';
import NoiseField from './NoiseField.vue';
import OutputsForm from './OutputsForm.vue';
import PlayingForm from './PlayingForm.vue';
import PlugsForm from './PlugsForm.vue';

defineProps<{ problems: Record<string, string> }>();
const sheet = defineModel<JobSheet>('sheet', { required: true });
const chain = defineModel<Chain>({ required: true });
const path = defineModel<Path>('path', { required: true });
const source = defineModel<Source>('source', { required: true });

/** Without a vehicle: no path leads from it, and what it gives is yet to be found. */
const alone = computed(() => sheet.value.subject === 'source');
const number = computed(() => chain.value.sources.findIndex((source) => source.id === path.value.source));
const place = computed(() => `chain.sources.${number.value}`);
const taken = computed(
  () =>
    new Set(
      chain.value.paths
        .filter((path) => path.source === source.value.id && !alone.value)
        .flatMap((path) => [path.output, ...path.also]),
    ),
);
const options = computed(() =>
  chain.value.sources.map((source, index) => ({
    value: source.id,
    text: source.name || `Source ${index + 1}`,
  })),
);
const used = computed({
  get: () => path.value.source,
  set: (id: string) => {
    const next = chain.value.sources.find((source) => source.id === id);
    path.value.source = id;
    path.value.output = next?.outputs[0]?.id ?? '';
    path.value.also = [];
  },
});

const { fresh } = useNewParts();
function add(): void {
  const part = fresh('source');
  if (!part) return;
  part.id = newId('source');
  chain.value.sources.push(part);
  used.value = part.id;
}
function remove(): void {
  const gone = source.value.id;
  const next = chain.value.sources.find((source) => source.id !== gone);
  if (!next) return;
  for (const path of chain.value.paths.filter((path) => path.source === gone)) {
    path.source = next.id;
    path.output = next.outputs[0]?.id ?? '';
    path.also = [];
  }
  takeOut(chain.value.sources, gone);
}
</script>

<template>
  <section class="sheet">
    <h2 class="h4">Source</h2>
    <div v-if="!alone" class="d-flex flex-wrap gap-2 align-items-center mb-1">
      <SelectField
        v-if="options.length > 1"
        v-model="used"
        label="Source of this path"
        :options="options"
        class="which"
      />
      <BButton v-if="options.length < 8" variant="plain" @click="add">Add a source</BButton>
      <BButton v-if="options.length > 1" variant="plain" @click="remove">Remove this source</BButton>
    </div>
    <FromLibrary v-if="!alone" v-model:sheet="sheet" v-model="source" />
    <div class="row g-2">
      <TextField v-model="source.name" class="col-md-4" label="Name" :problem="problems[`${place}.name`]" />
      <SelectField v-model="source.kind" class="col-md-4" label="Kind of source" :options="SOURCE_KINDS" />
      <QuantityField
        v-model="source.top_volume"
        class="col-md-4"
        label="Volume scale ends at"
        :mark="`sources.${source.id}.top_volume`"
        kind="count"
        :usual="fresh('source')?.top_volume"
        hint="Highest number shown"
        :problem="problems[`${place}.top_volume`]"
      />
      <NoiseField v-if="!alone" v-model="source" class="col-md-4" :problems="problems" :place="place" />
    </div>
    <CheckField v-model="source.keeps_settings" label="Keeps its settings without power" />
    <OutputsForm
      v-model="source"
      v-model:output="path.output"
      v-model:also="path.also"
      :problems="problems"
      :place="place"
      :taken="taken"
      :alone="alone"
    />
    <PlayingForm v-model="source" :problems="problems" :place="place" />
    <PlugsForm
      v-if="source.kind === 'factory' && !alone"
      v-model="source"
      :problems="problems"
      :place="place"
    />
  </section>
</template>

<style scoped>
.which {
  flex: 0 1 16rem;
}
</style>
