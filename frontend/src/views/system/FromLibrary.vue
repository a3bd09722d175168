<script setup lang="ts">
/** A source from the shop's library: what another unit of it measured is counted with until the run has checked it. */
import { ref, watch } from 'vue';
import { api, type JobSheet, Refusal, type Source } from '@/api/client';
import NoteBox from '@/components/NoteBox.vue';
import { formatValue } from '@/support/quantity';
import { sheetInWords, WAYS } from '@/support/sources';
import SheetPicker from '@/views/sources/SheetPicker.vue';

const sheet = defineModel<JobSheet>('sheet', { required: true });
const source = defineModel<Source>({ required: true });
const chosen = ref('');
const trouble = ref('');

watch(chosen, async (id) => {
  if (!id) return;
  trouble.value = '';
  try {
    const made = await api.sourceIntoJob(id, { sheet: sheet.value, source: source.value.id });
    sheet.value.not_confirmed = made.not_confirmed;
    sheet.value.chain = made.chain;
  } catch (problem) {
    if (!(problem instanceof Refusal)) throw problem;
    trouble.value = problem.message;
  }
  chosen.value = '';
});

type Told = NonNullable<Source['from_sheet']>['clean'][number];
function inWords(clean: Told): string {
  const output = source.value.outputs.find((output) => output.id === clean.output)?.name || clean.output;
  const where = [output, clean.side, clean.way ? WAYS[clean.way] : ''].filter(Boolean).join(', ');
  return `${where}: clean maximum ${clean.clean}, ${formatValue(clean.clean_v, 'V', 3)}`;
}
</script>

<template>
  <NoteBox v-if="source.from_sheet" kind="plain">
    <p class="mb-1">
      From {{ sheetInWords(source.from_sheet) }}. The run checks each output with one reading.
      <span class="quiet fw-normal">{{ source.from_sheet.clean.map(inWords).join('; ') }}.</span>
    </p>
    <BButton size="sm" variant="plain" @click="source.from_sheet = null">Don’t use the sheet</BButton>
  </NoteBox>
  <SheetPicker v-else v-model="chosen" label="From the library" none="Not from the library" />
  <p v-if="trouble" class="said-clipped mb-1" role="alert">{{ trouble }}</p>
</template>
