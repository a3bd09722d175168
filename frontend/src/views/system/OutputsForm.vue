<script setup lang="ts">
/** The outputs of a source, and which of them a path takes. */
import { computed } from 'vue';
import type { Source } from '@/api/client';
import SelectField from '@/components/SelectField.vue';
import StatedField from '@/components/StatedField.vue';
import TextField from '@/components/TextField.vue';
import { useNewParts } from '@/composables/useNewParts';
import { copyOf, newId } from '@/support/ids';

const props = defineProps<{ problems: Record<string, string>; place: string; taken: ReadonlySet<string> }>();
const source = defineModel<Source>({ required: true });
const output = defineModel<string>('output', { required: true });

const KINDS = [
  { value: 'line' as const, text: 'Line level' },
  { value: 'speaker' as const, text: 'Speaker level' },
];
const SIDES = [
  { value: 'pair' as const, text: 'Left and right' },
  { value: 'left' as const, text: 'Left only' },
  { value: 'right' as const, text: 'Right only' },
  { value: 'mono' as const, text: 'One for both' },
];
const options = computed(() =>
  source.value.outputs.map((one, index) => ({ value: one.id, text: one.name || `Output ${index + 1}` })),
);

const { fresh } = useNewParts();
function add(): void {
  const last = source.value.outputs.at(-1);
  // A second one is usually like the first.
  const part = last ? { ...copyOf(last), name: '' } : fresh('output');
  if (part) source.value.outputs.push({ ...part, id: newId('output') });
}
function remove(index: number): void {
  source.value.outputs.splice(index, 1);
}
const at = (index: number, field: string) => props.problems[`${props.place}.outputs.${index}.${field}`];
</script>

<template>
  <h3 class="h6 mt-2">Outputs</h3>
  <SelectField
    v-if="source.outputs.length > 1"
    v-model="output"
    label="This path takes"
    :options="options"
    class="takes"
  />
  <fieldset v-for="(one, index) in source.outputs" :key="one.id" class="output">
    <legend class="visually-hidden">Output {{ index + 1 }}</legend>
    <TextField v-model="one.name" label="Output" hint="Front, rear, sub …" :problem="at(index, 'name')" />
    <SelectField v-model="one.kind" label="gives" :options="KINDS" />
    <SelectField v-model="one.sides" label="for" :options="SIDES" />
    <StatedField
      v-model="one.rated"
      class="rated"
      label="Rated output"
      hint="At full volume"
      :problems="problems"
      :place="`${place}.outputs.${index}.rated`"
    />
    <BButton
      v-if="source.outputs.length > 1 && !taken.has(one.id)"
      variant="plain"
      :aria-label="`Remove output ${index + 1}`"
      @click="remove(index)"
      >Remove</BButton
    >
  </fieldset>
  <BButton v-if="source.outputs.length < 8" variant="plain" @click="add">Another output</BButton>
</template>

<style scoped lang="scss">
@use '@/styles/breakpoints' as at;

.takes {
  max-width: 16rem;
}
.output {
  display: grid;
  grid-template-columns: repeat(3, minmax(7rem, 1fr)) 2fr;
  gap: 0 0.6rem;
  align-items: start;
}
.output > button {
  justify-self: start;
  margin-bottom: 0.6rem;
}
@include at.narrow {
  .output {
    grid-template-columns: repeat(2, minmax(0, 1fr));
    padding-bottom: 0.5rem;
    margin-bottom: 0.5rem;
    border-bottom: 1px solid var(--line);
  }
  .rated {
    grid-column: 1 / -1;
  }
}
</style>
