<script setup lang="ts">
/** The bands of a path's equaliser. */
import type { Path } from '@/api/client';
import QuantityField from '@/components/QuantityField.vue';
import SelectField from '@/components/SelectField.vue';
import { useNewParts } from '@/composables/useNewParts';

defineProps<{ problems: Record<string, string>; index: number }>();
const path = defineModel<Path>({ required: true });

const BANDS = [
  { value: 'peak' as const, text: 'Peak' },
  { value: 'low_shelf' as const, text: 'Low shelf' },
  { value: 'high_shelf' as const, text: 'High shelf' },
];

const { fresh } = useNewParts();
function add(): void {
  const part = fresh('band');
  if (part) path.value.equaliser.push(part);
}
function remove(place: number): void {
  path.value.equaliser.splice(place, 1);
}
</script>

<template>
  <h3 class="h6">Equaliser</h3>
  <div v-for="(band, place) in path.equaliser" :key="place" class="band">
    <SelectField v-model="band.kind" label="Band" :options="BANDS" />
    <QuantityField
      v-model="band.frequency_hz"
      label="at"
      kind="hertz"
      :problem="problems[`chain.paths.${index}.equaliser.${place}.frequency_hz`]"
    />
    <QuantityField
      v-model="band.gain_db"
      label="by"
      kind="decibels"
      :problem="problems[`chain.paths.${index}.equaliser.${place}.gain_db`]"
    />
    <QuantityField v-model="band.q" label="Width" kind="width" />
    <BButton variant="plain" :aria-label="`Remove band ${place + 1}`" @click="remove(place)">Remove</BButton>
  </div>
  <BButton v-if="path.equaliser.length < 31" variant="plain" @click="add">Add a band</BButton>
</template>

<style scoped lang="scss">
@use '@/styles/breakpoints' as at;

.band {
  display: grid;
  grid-template-columns: repeat(4, minmax(0, 1fr)) max-content;
  gap: 0.5rem;
  align-items: center;
}
@include at.phone {
  .band {
    grid-template-columns: repeat(2, minmax(0, 1fr));
  }
}
</style>
