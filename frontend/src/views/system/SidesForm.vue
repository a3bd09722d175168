<script setup lang="ts">
/** What a processor does to one side of a pair beyond what it does to both. */
import { computed } from 'vue';
import type { Path } from '@/api/client';
import CheckField from '@/components/CheckField.vue';
import FoldBox from '@/components/FoldBox.vue';
import QuantityField from '@/components/QuantityField.vue';

defineProps<{ problems: Record<string, string>; index: number }>();
const path = defineModel<Path>({ required: true });

const SIDES = ['left', 'right'] as const;
const set = computed(() =>
  SIDES.some((side) => {
    const { gain_db, delay_ms, inverted, distance_cm } = path.value[side];
    return gain_db !== 0 || delay_ms !== 0 || inverted || distance_cm != null;
  }),
);
</script>

<template>
  <FoldBox title="Left and right apart" :open="set">
    <fieldset v-for="side in SIDES" :key="side" class="side">
      <legend class="h6 m-0">{{ side === 'left' ? 'Left side' : 'Right side' }}</legend>
      <QuantityField
        v-model="path[side].gain_db"
        :usual="0"
        label="Gain"
        kind="decibels"
        :problem="problems[`chain.paths.${index}.${side}.gain_db`]"
      />
      <QuantityField
        v-model="path[side].delay_ms"
        :usual="0"
        label="Delay"
        kind="milliseconds"
        :problem="problems[`chain.paths.${index}.${side}.delay_ms`]"
      />
      <QuantityField
        v-model="path[side].distance_cm"
        :empty="null"
        label="Distance to the seat"
        kind="centimetres"
        :unknown="path.distance_cm == null ? 'not measured' : 'as both'"
        :problem="problems[`chain.paths.${index}.${side}.distance_cm`]"
      />
      <CheckField v-model="path[side].inverted" label="Polarity reversed" />
    </fieldset>
  </FoldBox>
</template>

<style scoped>
.side {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(8rem, 1fr));
  gap: 0 0.6rem;
  align-items: center;
}
.side > legend {
  grid-column: 1 / -1;
}
</style>
