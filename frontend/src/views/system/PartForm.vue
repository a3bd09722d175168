<script setup lang="ts">
/** The form of one part of a path: its source, what lies between, its amplifier, its speakers, its filters. */
import { computed } from 'vue';
import type { DelayProposal, JobSheet, Proposal } from '@/api/client';
import type { Part } from '@/support/refusals';
import AmplifierForm from './AmplifierForm.vue';
import BetweenForm from './BetweenForm.vue';
import FiltersForm from './FiltersForm.vue';
import SourceForm from './SourceForm.vue';
import SpeakersForm from './SpeakersForm.vue';

const props = defineProps<{
  part: Part;
  /** Which path. */
  index: number;
  problems: Record<string, string>;
  proposal: Proposal | undefined;
  delay: DelayProposal | undefined;
  /** Whether what is proposed is that of the sheet before its last change. */
  behind: boolean;
}>();
const sheet = defineModel<JobSheet>({ required: true });
const emit = defineEmits<{ take: [proposal: Proposal]; align: [] }>();

const chain = computed(() => sheet.value.chain);
const joined = computed(() => chain.value.paths[props.index]);
const behindProcessor = computed(
  () =>
    chain.value.processors.some(
      (processor) => processor.kind === 'processor' && joined.value?.through.includes(processor.id),
    ) ?? false,
);
/** Where the chosen path's parts stand in their lists. */
const at = computed(() => ({
  source: chain.value.sources.findIndex((source) => source.id === joined.value?.source),
  amplifier: chain.value.amplifiers.findIndex((amplifier) => amplifier.id === joined.value?.amplifier),
  load: chain.value.loads.findIndex((load) => load.id === joined.value?.load),
}));
</script>

<template>
  <div v-if="joined">
    <SourceForm
      v-if="part === 'source' && chain.sources[at.source]"
      v-model="sheet.chain"
      v-model:sheet="sheet"
      v-model:path="chain.paths[index]!"
      v-model:source="chain.sources[at.source]!"
      :problems="problems"
    />
    <BetweenForm
      v-else-if="part === 'between'"
      v-model:chain="sheet.chain"
      v-model:path="chain.paths[index]!"
      v-model:choices="sheet.choices"
      :problems="problems"
      :index="index"
    />
    <AmplifierForm
      v-else-if="part === 'amplifier' && chain.amplifiers[at.amplifier]"
      v-model="chain.amplifiers[at.amplifier]!"
      v-model:chain="sheet.chain"
      v-model:path="chain.paths[index]!"
      :problems="problems"
      :place="`chain.amplifiers.${at.amplifier}`"
      :choices="sheet.choices"
      :path-place="`chain.paths.${index}`"
    />
    <SpeakersForm
      v-else-if="part === 'speakers' && chain.loads[at.load]"
      v-model="chain.loads[at.load]!"
      v-model:chain="sheet.chain"
      v-model:path="chain.paths[index]!"
      :problems="problems"
      :place="`chain.loads.${at.load}`"
      :path-place="`chain.paths.${index}`"
      :delay="delay"
      :behind="behind"
      @align="emit('align')"
    />
    <FiltersForm
      v-else-if="part === 'filters'"
      v-model="chain.paths[index]!"
      :problems="problems"
      :index="index"
      :proposal="proposal"
      :behind="behind"
      :behind-processor="behindProcessor"
      @take="(taken) => emit('take', taken)"
    />
  </div>
</template>
