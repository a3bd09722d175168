<script setup lang="ts">
/** A voltage as a data sheet states it: in volts, or as watts into a load. */
import { computed, ref } from 'vue';
import type { Stated } from '@/api/client';
import { useDoubts } from '@/composables/useDoubts';
import QuantityField from './QuantityField.vue';
import SelectField from './SelectField.vue';

const props = defineProps<{
  label: string;
  hint?: string;
  problems: Record<string, string>;
  place: string;
  /** Its place within the system, parts by their ids. */
  mark?: string;
}>();
const stated = defineModel<Stated>({ required: true });

const inWatts = ref(stated.value.watts != null);
/** What was typed the other way, to come back to; a number that wasn't typed twice goes along with its unit. */
let other: number | null = null;
const way = computed({
  get: () => (inWatts.value ? 'watts' : 'volts'),
  set: (chosen: 'volts' | 'watts') => {
    if (chosen === way.value) return;
    const before = stated.value[way.value] ?? null;
    inWatts.value = chosen === 'watts';
    Object.assign(stated.value, { volts: null, watts: null }, { [chosen]: other ?? before });
    other = before;
  },
});
const WAYS = [
  { value: 'volts' as const, text: 'volts' },
  { value: 'watts' as const, text: 'watts' },
];
const { hintAt } = useDoubts();
const shownHint = computed(() => hintAt(props.mark) ?? props.hint);
const problem = (field: string) => props.problems[`${props.place}.${field}`];
</script>

<template>
  <div class="stated" :data-place="mark">
    <QuantityField
      v-if="inWatts"
      v-model="stated.watts"
      :empty="null"
      :label="label"
      kind="watts"
      :hint="shownHint"
      :problem="problem('watts')"
    />
    <QuantityField
      v-else
      v-model="stated.volts"
      :empty="null"
      :label="label"
      kind="volts"
      :hint="shownHint"
      :problem="problem('volts')"
    />
    <SelectField v-model="way" label="Unit" :options="WAYS" />
    <QuantityField
      v-if="inWatts"
      v-model="stated.load_ohm"
      label="into"
      kind="ohms"
      :problem="problem('load_ohm')"
    />
  </div>
</template>

<style scoped>
.stated {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(6.5rem, 1fr));
  gap: 0 0.5rem;
}
</style>
