<script setup lang="ts">
/** An amplifier's inputs: which is used, their ranges, the routing switch and the leads, and the boost. */
import { computed } from 'vue';
import type { Amplifier, Path } from '@/api/client';
import CheckField from '@/components/CheckField.vue';
import QuantityField from '@/components/QuantityField.vue';
import SelectField from '@/components/SelectField.vue';
import { useNewParts } from '@/composables/useNewParts';
import { useUnconfirmed } from './useUnconfirmed';

const props = defineProps<{ problems: Record<string, string>; place: string; pathPlace: string }>();
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
  },
  {
    field: 'high_level_range' as const,
    most: 'highest_high_level_v' as const,
    name: 'High-level input',
  },
];
const SCALES = [
  { value: 'this_load' as const, text: 'Into this load' },
  { value: 'rated_load' as const, text: 'Into the highest rated load' },
];
const { fresh } = useNewParts();
const { hintAt } = useUnconfirmed();
const boosted = computed({
  get: () => path.value.boost != null,
  set: (on: boolean) => {
    path.value.boost = on ? (fresh('boost') ?? null) : null;
  },
});

function known(range: (typeof RANGES)[number], has: boolean): void {
  amplifier.value[range.field] = has ? (fresh(range.field) ?? null) : null;
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
        :hint="hintAt(`amplifiers.${amplifier.id}.${range.field}`) ?? 'The larger number'"
        :problem="at(range.field)"
      />
      <QuantityField
        v-model="amplifier[range.field]!.up_v"
        label="Gain fully up"
        kind="volts"
        :hint="hintAt(`amplifiers.${amplifier.id}.${range.field}`) ?? 'The smaller number'"
      />
      <QuantityField
        v-model="amplifier[range.most]"
        :empty="null"
        label="Most it takes"
        kind="volts"
        :problem="at(range.most)"
      />
      <SelectField
        v-model="amplifier[range.field]!.scale_of"
        label="Its volts give full output"
        :options="SCALES"
        hint="A data sheet that says nothing comes nearest to this load’s"
        class="scale"
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
      />
      <QuantityField
        v-model="path.boost.frequency_hz"
        label="round"
        kind="hertz"
        :problem="problems[`${pathPlace}.boost.frequency_hz`]"
      />
    </template>
  </div>
</template>

<style scoped lang="scss">
@use '@/styles/breakpoints' as at;

.narrow {
  max-width: 16rem;
}
.range {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 0 0.6rem;
  align-items: center;
}
@include at.phone {
  .range {
    grid-template-columns: repeat(2, minmax(0, 1fr));
  }
}
</style>
