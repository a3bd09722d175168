<script setup lang="ts">
/** An amplifier's inputs: which is used, their ranges, the routing switch and the leads, and the boost. */
import { computed } from 'vue';
import type { Amplifier, Path } from '@/api/client';
import CheckField from '@/components/CheckField.vue';
import QuantityField from '@/components/QuantityField.vue';
import SelectField from '@/components/SelectField.vue';
import { useNewParts } from '@/composables/useNewParts';
import RangesForm from './RangesForm.vue';

defineProps<{ problems: Record<string, string>; place: string; pathPlace: string }>();
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
  { value: null, text: 'not checked' },
  { value: 0, text: 'None' },
  { value: 1, text: 'One' },
  { value: 2, text: 'Two' },
];
const { fresh } = useNewParts();
const boosted = computed({
  get: () => path.value.boost != null,
  set: (on: boolean) => {
    path.value.boost = on ? (fresh('boost') ?? null) : null;
  },
});
</script>

<template>
  <h3 class="h6 mt-3">Inputs and gain</h3>
  <SelectField v-model="path.input" label="Input used" :options="INPUTS" class="narrow" />
  <RangesForm
    v-model="amplifier"
    :problems="problems"
    :place="place"
    :mark="`amplifiers.${amplifier.id}`"
    :words="(input: string) => `${input}: gain range known`"
  />
  <CheckField v-model="amplifier.gain_printed" label="Volts printed around the knob" />
  <div class="three-fields mt-2">
    <SelectField v-model="amplifier.routing" label="Input routing switch" :options="ROUTINGS" />
    <SelectField v-model="path.leads" label="RCAs plugged in" :options="LEADS" />
    <CheckField v-model="boosted" label="Boost in use" class="boost" />
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

<style scoped>
.narrow {
  max-width: 16rem;
}
</style>
