<script setup lang="ts">
import { computed } from 'vue';
import type { JobSheet } from '@/api/client';
import QuantityField from '@/components/QuantityField.vue';
import SelectField from '@/components/SelectField.vue';
import TextField from '@/components/TextField.vue';

type Amplifier = JobSheet['chain']['amplifiers'][number];

const props = defineProps<{ problems: Record<string, string>; place: string }>();
const emit = defineEmits<{ edited: [] }>();
const amplifier = defineModel<Amplifier>({ required: true });
const mode = defineModel<JobSheet['chain']['paths'][number]['mode']>('mode', { required: true });

const MODES = [
  { value: 'per_channel' as const, text: 'each channel' },
  { value: 'bridged' as const, text: 'bridged pair' },
  { value: 'strapped' as const, text: 'two strapped' },
];
const USES = [
  { value: 'per_channel' as const, text: 'Each for itself' },
  { value: 'bridged' as const, text: 'Bridged' },
  { value: 'strapped' as const, text: 'Two strapped' },
];
const gainProblem = computed(() => props.problems[`${props.place}.gain_range`]);

function addRating(): void {
  const last = amplifier.value.ratings.at(-1);
  amplifier.value.ratings.push({
    power_w: last?.power_w ?? 75,
    load_ohm: (last?.load_ohm ?? 8) / 2,
    mode: 'per_channel',
    supply_v: null,
  });
  emit('edited');
}

function removeRating(index: number): void {
  amplifier.value.ratings.splice(index, 1);
  emit('edited');
}

function printed(has: boolean | unknown): void {
  amplifier.value.gain_range = has ? { down_v: 6, up_v: 0.2 } : null;
  emit('edited');
}
</script>

<template>
  <section class="sheet">
    <h2 class="h4">Amplifier</h2>
    <div class="row g-2">
      <TextField
        v-model="amplifier.name"
        class="col-md-4"
        label="Amplifier"
        :problem="problems[`${place}.name`]"
      />
      <SelectField v-model="mode" class="col-sm-6 col-md-4" label="Channels used" :options="USES" />
      <QuantityField
        v-model="amplifier.lowest_load_ohm"
        class="col-sm-6 col-md-4"
        label="Lowest load of one channel"
        kind="ohms"
        :problem="problems[`${place}.lowest_load_ohm`]"
        @update:model-value="emit('edited')"
      />
    </div>
    <h3 class="h6 mt-1">Rated watts</h3>
    <div v-for="(rating, index) in amplifier.ratings" :key="index" class="row g-2 align-items-start">
      <QuantityField
        v-model="rating.power_w"
        class="col-4 col-md-3"
        label="Watts"
        kind="watts"
        :problem="problems[`${place}.ratings.${index}.power_w`]"
        @update:model-value="emit('edited')"
      />
      <QuantityField
        v-model="rating.load_ohm"
        class="col-3 col-md-2"
        label="into"
        kind="ohms"
        :problem="problems[`${place}.ratings.${index}.load_ohm`]"
        @update:model-value="emit('edited')"
      />
      <SelectField v-model="rating.mode" class="col-5 col-md-3" label="as" :options="MODES" />
      <QuantityField
        v-model="rating.supply_v"
        :empty="null"
        class="col-6 col-md-2"
        label="at supply"
        kind="volts"
        :problem="problems[`${place}.ratings.${index}.supply_v`]"
        @update:model-value="emit('edited')"
      />
      <div v-if="amplifier.ratings.length > 1" class="col-md-2 remove">
        <BButton variant="plain" :aria-label="`Remove rating ${index + 1}`" @click="removeRating(index)"
          >Remove</BButton
        >
      </div>
    </div>
    <BButton v-if="amplifier.ratings.length < 8" variant="plain" @click="addRating">Another rating</BButton>

    <h3 class="h6 mt-3">Gain knob</h3>
    <BFormCheckbox :model-value="amplifier.gain_range !== null" @update:model-value="printed">
      Volts are printed around it
    </BFormCheckbox>
    <div v-if="amplifier.gain_range" class="row g-2 mt-1">
      <QuantityField
        v-model="amplifier.gain_range.down_v"
        class="col-6 col-md-4"
        label="Printed at fully down"
        kind="volts"
        hint="The larger number"
        :problem="gainProblem"
        @update:model-value="emit('edited')"
      />
      <QuantityField
        v-model="amplifier.gain_range.up_v"
        class="col-6 col-md-4"
        label="Printed at fully up"
        kind="volts"
        hint="The smaller number"
        @update:model-value="emit('edited')"
      />
    </div>
    <div class="d-flex flex-wrap gap-4 mt-2">
      <BFormCheckbox v-model="amplifier.clip_lamp">Has a clip lamp</BFormCheckbox>
      <BFormCheckbox v-model="amplifier.regulated">Output independent of the supply voltage</BFormCheckbox>
    </div>
  </section>
</template>

<style scoped>
@media (min-width: 768px) {
  .remove {
    padding-top: 1.7rem;
  }
}
</style>
