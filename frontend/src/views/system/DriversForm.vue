<script setup lang="ts">
/** Unlike drivers beside a channel's speakers, and the impedance curve that was measured of one of these. */
import { computed, ref } from 'vue';
import { api, type Load, Refusal } from '@/api/client';
import FoldBox from '@/components/FoldBox.vue';
import QuantityField from '@/components/QuantityField.vue';
import TextField from '@/components/TextField.vue';
import { useNewParts } from '@/composables/useNewParts';
import { formatValue } from '@/support/quantity';

const props = defineProps<{ problems: Record<string, string>; place: string }>();
const load = defineModel<Load>({ required: true });

const { fresh } = useNewParts();
function add(): void {
  const part = fresh('driver');
  if (part) load.value.others.push(part);
}
const sentence = ref('');
const curve = computed(() => load.value.impedance_curve);
const lowest = computed(() =>
  curve.value.length ? curve.value.reduce((least, point) => (point.ohm < least.ohm ? point : least)) : null,
);
async function read(event: Event): Promise<void> {
  const field = event.target as HTMLInputElement;
  const file = field.files?.[0];
  if (!file) return;
  sentence.value = '';
  try {
    load.value.impedance_curve = await api.readCurve(file);
  } catch (problem) {
    if (!(problem instanceof Refusal)) throw problem;
    sentence.value = problem.message;
  }
  field.value = '';
}
const at = (index: number, field: string) => props.problems[`${props.place}.others.${index}.${field}`];
</script>

<template>
  <FoldBox title="More drivers on this channel" :open="load.others.length > 0">
    <p class="quiet m-0">
      Different drivers in parallel: a tweeter behind its capacitor, another way of a set.
    </p>
    <fieldset v-for="(driver, index) in load.others" :key="index" class="driver">
      <legend class="visually-hidden">Further driver {{ index + 1 }}</legend>
      <TextField v-model="driver.name" label="Driver" :problem="at(index, 'name')" />
      <QuantityField
        v-model="driver.impedance_ohm"
        label="Ohms"
        kind="ohms"
        :problem="at(index, 'impedance_ohm')"
      />
      <QuantityField
        v-model="driver.power_w"
        :empty="null"
        label="Watts"
        kind="watts"
        :problem="at(index, 'power_w')"
      />
      <QuantityField
        v-model="driver.series_capacitor_uf"
        :empty="null"
        label="Capacitor"
        kind="microfarads"
        unknown="none"
        :problem="at(index, 'series_capacitor_uf')"
      />
      <BButton
        variant="plain"
        :aria-label="`Remove further driver ${index + 1}`"
        @click="load.others.splice(index, 1)"
        >Remove</BButton
      >
    </fieldset>
    <BButton v-if="load.others.length < 4" variant="plain" @click="add">Add a driver</BButton>
  </FoldBox>
  <FoldBox title="Impedance curve" :open="curve.length > 0">
    <p class="m-0">
      <template v-if="lowest">
        {{ curve.length }} points, lowest {{ formatValue(lowest.ohm, 'Ω', 3) }} at
        {{ formatValue(lowest.frequency_hz, 'Hz', 3) }}.
        <BButton variant="plain" @click="load.impedance_curve = []">Restore it</BButton>
      </template>
      <span v-else class="quiet">None. Use a table of hertz and ohms (CSV).</span>
    </p>
    <label class="form-label mt-1">
      Read a curve of one speaker
      <input type="file" class="form-control" accept=".csv,.txt,.zma,text/*" @change="read" />
    </label>
    <p v-if="sentence" class="said-clipped m-0" role="alert">{{ sentence }}</p>
  </FoldBox>
</template>

<style scoped lang="scss">
@use '@/styles/breakpoints' as at;

.driver {
  display: grid;
  grid-template-columns: repeat(4, minmax(0, 1fr)) max-content;
  gap: 0 0.6rem;
  align-items: center;
}
@include at.phone {
  .driver {
    grid-template-columns: repeat(2, minmax(0, 1fr));
  }
}
</style>
