<script setup lang="ts">
/** An amplifier's inputs: which is used, their ranges, the routing switch and the leads, and the boost. */
import { computed } from 'vue';
import type { Amplifier, Path } from '@/api/client';
import CheckField from '@/components/CheckField.vue';
import QuantityField from '@/components/QuantityField.vue';
import SelectField from '@/components/SelectField.vue';

const props = defineProps<{ problems: Record<string, string>; place: string; pathPlace: string }>();
const emit = defineEmits<{ edited: [] }>();
const amplifier = defineModel<Amplifier>({ required: true });
const path = defineModel<Path>('path', { required: true });

const INPUTS = [
  { value: 'low' as const, text: 'Low-level input' },
  { value: 'high' as const, text: 'High-level input' },
];
const ROUTINGS = [
  { value: null, text: 'No such switch' },
  { value: 'own' as const, text: 'Own inputs' },
  { value: 'shared' as const, text: 'From first pair' },
];
const LEADS = [
  { value: null, text: 'Not counted' },
  { value: 0, text: 'None' },
  { value: 1, text: 'One' },
  { value: 2, text: 'Two' },
];
const RANGES = [
  {
    field: 'gain_range' as const,
    most: 'highest_input_v' as const,
    name: 'Low-level input',
    usual: { down_v: 6, up_v: 0.2 },
  },
  {
    field: 'high_level_range' as const,
    most: 'highest_high_level_v' as const,
    name: 'High-level input',
    usual: { down_v: 20, up_v: 1 },
  },
];
const boosted = computed({
  get: () => path.value.boost != null,
  set: (on: boolean) => {
    path.value.boost = on ? { kind: 'peak', frequency_hz: 45, gain_db: 6, q: 1 } : null;
    emit('edited');
  },
});

function known(range: (typeof RANGES)[number], has: boolean): void {
  amplifier.value[range.field] = has ? { ...range.usual } : null;
  emit('edited');
}
const at = (field: string) => props.problems[`${props.place}.${field}`];
</script>

<template>
  <h3 class="h6 mt-3">Inputs and gain</h3>
  <SelectField v-model="path.input" label="This path uses the" :options="INPUTS" class="narrow" />
  <template v-for="range in RANGES" :key="range.field">
    <CheckField
      :model-value="amplifier[range.field] != null"
      :label="`${range.name}: its range is known`"
      @update:model-value="(has) => known(range, has)"
    />
    <div v-if="amplifier[range.field]" class="range">
      <QuantityField
        v-model="amplifier[range.field]!.down_v"
        label="Gain fully down"
        kind="volts"
        hint="The larger number"
        :problem="at(range.field)"
        @update:model-value="emit('edited')"
      />
      <QuantityField
        v-model="amplifier[range.field]!.up_v"
        label="Gain fully up"
        kind="volts"
        hint="The smaller number"
        @update:model-value="emit('edited')"
      />
      <QuantityField
        v-model="amplifier[range.most]"
        :empty="null"
        label="Most it takes"
        kind="volts"
        :problem="at(range.most)"
        @update:model-value="emit('edited')"
      />
    </div>
  </template>
  <CheckField v-model="amplifier.gain_printed" label="Volts are printed around the knob" />
  <div class="range mt-2">
    <SelectField v-model="path.routing" label="Input routing switch" :options="ROUTINGS" />
    <SelectField v-model="path.leads" label="Leads plugged into this pair" :options="LEADS" />
    <CheckField v-model="boosted" label="Boost is in use" class="boost" />
    <template v-if="path.boost">
      <QuantityField
        v-model="path.boost.gain_db"
        label="Boost by"
        kind="decibels"
        :problem="problems[`${pathPlace}.boost.gain_db`]"
        @update:model-value="emit('edited')"
      />
      <QuantityField
        v-model="path.boost.frequency_hz"
        label="round"
        kind="hertz"
        :problem="problems[`${pathPlace}.boost.frequency_hz`]"
        @update:model-value="emit('edited')"
      />
    </template>
  </div>
</template>

<style scoped>
.narrow {
  max-width: 16rem;
}
.range {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 0 0.6rem;
  align-items: center;
}
@media (max-width: 600px) {
  .range {
    grid-template-columns: repeat(2, minmax(0, 1fr));
  }
}
</style>
