<script setup lang="ts">
/** The outputs of a source, and which of them a path takes. */
import { computed } from 'vue';
import type { Source } from '@/api/client';
import CheckField from '@/components/CheckField.vue';
import FoldBox from '@/components/FoldBox.vue';
import QuantityField from '@/components/QuantityField.vue';
import SelectField from '@/components/SelectField.vue';
import StatedField from '@/components/StatedField.vue';
import TextField from '@/components/TextField.vue';
import { useNewParts } from '@/composables/useNewParts';
import { copyOf, newId } from '@/support/ids';

const props = defineProps<{
  problems: Record<string, string>;
  place: string;
  taken: ReadonlySet<string>;
  /** Whether no path leads from them. */
  alone: boolean;
}>();
const source = defineModel<Source>({ required: true });
const output = defineModel<string>('output', { required: true });
/** Further outputs that this path sums with that one. */
const also = defineModel<string[]>('also', { required: true });

const KINDS = [
  { value: 'line' as const, text: 'Line level' },
  { value: 'speaker' as const, text: 'Speaker level' },
  { value: 'digital' as const, text: 'Digital' },
];
const MORE = [
  { name: 'level_db' as const, label: 'Level', kind: 'decibels' as const, empty: undefined },
  { name: 'lowest_hz' as const, label: 'Lowest frequency', kind: 'hertz' as const, empty: null },
  { name: 'highest_hz' as const, label: 'Highest frequency', kind: 'hertz' as const, empty: null },
];
const SIDES = [
  { value: 'pair' as const, text: 'Left and right' },
  { value: 'left' as const, text: 'Left only' },
  { value: 'right' as const, text: 'Right only' },
  { value: 'mono' as const, text: 'One for both' },
];
const options = computed(() =>
  source.value.outputs.map((output, index) => ({
    value: output.id,
    text: output.name || `Output ${index + 1}`,
  })),
);

const others = computed(() => options.value.filter((option) => option.value !== output.value));
const isMore = (output: Source['outputs'][number]) =>
  output.level_db !== 0 || output.lowest_hz != null || output.highest_hz != null;
function sum(id: string, on: boolean): void {
  also.value = on ? [...also.value, id] : also.value.filter((key) => key !== id);
}
function take(id: string): void {
  also.value = also.value.filter((key) => key !== id);
  output.value = id;
}

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
    v-if="source.outputs.length > 1 && !alone"
    :model-value="output"
    label="Output used"
    :options="options"
    class="takes"
    @update:model-value="take"
  />
  <div v-if="others.length && !alone" class="d-flex flex-wrap gap-3">
    <CheckField
      v-for="choice in others"
      :key="choice.value"
      :model-value="also.includes(choice.value)"
      :label="`summed with ${choice.text}`"
      @update:model-value="(on) => sum(choice.value, on)"
    />
  </div>
  <fieldset v-for="(own, index) in source.outputs" :key="own.id" class="output">
    <legend class="visually-hidden">Output {{ index + 1 }}</legend>
    <TextField v-model="own.name" label="Output" hint="Front, rear, sub …" :problem="at(index, 'name')" />
    <SelectField v-model="own.kind" label="Kind" :options="KINDS" />
    <SelectField v-model="own.sides" label="Sides" :options="SIDES" />
    <StatedField
      v-if="own.kind !== 'digital'"
      v-model="own.rated"
      class="rated"
      label="Rated output"
      :mark="`sources.${source.id}.outputs.${own.id}.rated`"
      hint="At full volume"
      :problems="problems"
      :place="`${place}.outputs.${index}.rated`"
    />
    <FoldBox class="more" title="Level and range" :open="isMore(own)">
      <div class="three-fields">
        <QuantityField
          v-for="field in MORE"
          :key="field.name"
          v-model="own[field.name]"
          :label="field.label"
          :kind="field.kind"
          :empty="field.empty as never"
          unknown="everything"
          :problem="at(index, field.name)"
        />
      </div>
    </FoldBox>
    <BButton
      v-if="source.outputs.length > 1 && !taken.has(own.id)"
      variant="plain"
      :aria-label="`Remove output ${index + 1}`"
      @click="remove(index)"
      >Remove</BButton
    >
  </fieldset>
  <BButton v-if="source.outputs.length < 8" variant="plain" @click="add">Add an output</BButton>
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
.more {
  grid-column: 1 / -1;
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
