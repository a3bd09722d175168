<script setup lang="ts" generic="T extends Pick<Amplifier, 'ratings'>">
/** What the maker promises of an amplifier: watts at a load in a mode, at a supply and a distortion. */
import type { Amplifier } from '@/api/client';
import QuantityField from '@/components/QuantityField.vue';
import SelectField from '@/components/SelectField.vue';
import { useNewParts } from '@/composables/useNewParts';
import { copyOf } from '@/support/ids';

const props = defineProps<{
  problems: Record<string, string>;
  place: string;
  /** Where they stand within the system, parts by their ids. */
  mark: string;
  title?: string;
  /** What it means that there are none. */
  none?: string;
}>();
const holder = defineModel<T>({ required: true });

const MODES = [
  { value: 'per_channel' as const, text: 'each channel' },
  { value: 'bridged' as const, text: 'bridged pair' },
  { value: 'strapped' as const, text: 'two strapped' },
];
const DRIVEN = [
  { value: 'all' as const, text: 'all' },
  { value: 'one' as const, text: 'one' },
];

const { fresh } = useNewParts();
function add(): void {
  const last = holder.value.ratings.at(-1);
  const part = fresh('rating');
  // A data sheet's next line is usually for half of the ohms.
  if (part) holder.value.ratings.push(last ? { ...copyOf(last), load_ohm: last.load_ohm / 2 } : part);
}
function remove(index: number): void {
  holder.value.ratings.splice(index, 1);
}
const at = (index: number, field: string) => props.problems[`${props.place}.ratings.${index}.${field}`];
</script>

<template>
  <h3 class="h6 mt-1">{{ title ?? 'Rated watts' }}</h3>
  <p v-if="!holder.ratings.length" class="quiet">
    {{ none ?? 'Not known: no target without them.' }}
  </p>
  <div v-for="(rating, index) in holder.ratings" :key="index" class="rating">
    <QuantityField
      v-model="rating.power_w"
      label="Watts"
      kind="watts"
      :usual="fresh('rating')?.power_w"
      :mark="`${mark}.ratings`"
      :problem="at(index, 'power_w')"
    />
    <QuantityField
      v-model="rating.load_ohm"
      label="into"
      kind="ohms"
      :usual="fresh('rating')?.load_ohm"
      :mark="`${mark}.ratings`"
      :problem="at(index, 'load_ohm')"
    />
    <SelectField v-model="rating.mode" label="Mode" :options="MODES" />
    <QuantityField
      v-model="rating.supply_v"
      :empty="null"
      label="at supply"
      kind="volts"
      :problem="at(index, 'supply_v')"
    />
    <QuantityField
      v-model="rating.distortion_percent"
      :empty="null"
      label="distortion"
      kind="percent"
      :problem="at(index, 'distortion_percent')"
    />
    <SelectField v-model="rating.driven" label="channels driven" :options="DRIVEN" />
    <BButton variant="plain" :aria-label="`Remove rating ${index + 1}`" @click="remove(index)"
      >Remove</BButton
    >
  </div>
  <BButton v-if="holder.ratings.length < 8" :data-place="`${mark}.ratings`" variant="plain" @click="add">{{
    holder.ratings.length ? 'Add another rating' : 'Add a rating'
  }}</BButton>
</template>

<style scoped lang="scss">
@use '@/styles/breakpoints' as at;

.rating {
  display: grid;
  grid-template-columns: 0.85fr 0.7fr 1.4fr 1fr 1fr 1.2fr max-content;
  gap: 0 0.5rem;
  align-items: center;
}
@include at.narrow {
  .rating {
    grid-template-columns: repeat(2, minmax(0, 1fr));
    padding-bottom: 0.5rem;
    margin-bottom: 0.5rem;
    border-bottom: 1px solid var(--line);
  }
}
</style>
