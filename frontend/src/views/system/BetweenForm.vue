<script setup lang="ts">
/** What lies between source and amplifier on this path: nothing, a line-output converter, or a processor. */
import { computed } from 'vue';
import type { JobSheet } from '@/api/client';
import QuantityField from '@/components/QuantityField.vue';
import SelectField from '@/components/SelectField.vue';
import TextField from '@/components/TextField.vue';

type Chain = JobSheet['chain'];
const props = defineProps<{ problems: Record<string, string>; index: number }>();
const emit = defineEmits<{ edited: [] }>();
const chain = defineModel<Chain>('chain', { required: true });
const choices = defineModel<JobSheet['choices']>('choices', { required: true });

const path = computed(() => chain.value.paths[props.index]);
const number = computed(() =>
  chain.value.processors.findIndex((one) => one.id === path.value?.through.at(-1)),
);
const processor = computed(() => chain.value.processors[number.value]);
const KINDS = [
  { value: 'processor' as const, text: 'A processor' },
  { value: 'converter' as const, text: 'A line-output converter' },
];
const OUTPUTS = [
  { value: '1.5' as const, text: '1.5 V: every amplifier takes it' },
  { value: '2' as const, text: '2 V: a comfortable signal' },
  { value: 'clean' as const, text: 'As high as it stays clean: least noise' },
];
const BANDS = [
  { value: 'peak' as const, text: 'Peak' },
  { value: 'low_shelf' as const, text: 'Low shelf' },
  { value: 'high_shelf' as const, text: 'High shelf' },
];
const used = computed({
  get: () => path.value?.through.at(-1) ?? '',
  set: (id: string) => {
    if (path.value) path.value.through = id ? [id] : [];
    emit('edited');
  },
});
const options = computed(() => [
  { value: '', text: 'Nothing: straight in' },
  ...chain.value.processors.map((one) => ({ value: one.id, text: one.name || 'Unnamed processor' })),
]);

function add(): void {
  const id = `processor-${crypto.randomUUID().slice(0, 8)}`;
  chain.value.processors.push({ id, name: '', kind: 'processor', highest_input_v: 4, highest_output_v: 4 });
  used.value = id;
}
function addBand(): void {
  path.value?.equaliser.push({ kind: 'peak', frequency_hz: 1000, gain_db: 0, q: 1.4 });
  emit('edited');
}
function removeBand(place: number): void {
  path.value?.equaliser.splice(place, 1);
  emit('edited');
}
</script>

<template>
  <section v-if="path" class="sheet">
    <h2 class="h4">Between source and amplifier</h2>
    <div class="row g-2">
      <SelectField v-model="used" class="col-md-6" label="On this path" :options="options" />
      <div class="col-md-6 add">
        <BButton variant="plain" @click="add">Another converter or processor</BButton>
      </div>
    </div>
    <template v-if="processor">
      <div class="row g-2">
        <TextField
          v-model="processor.name"
          class="col-md-6"
          label="Its name"
          :problem="problems[`chain.processors.${number}.name`]"
        />
        <SelectField v-model="processor.kind" class="col-md-6" label="It is" :options="KINDS" />
        <QuantityField
          v-model="processor.highest_input_v"
          class="col-6 col-md-4"
          label="Most its input takes"
          kind="volts"
          :problem="problems[`chain.processors.${number}.highest_input_v`]"
          @update:model-value="emit('edited')"
        />
        <QuantityField
          v-model="processor.highest_output_v"
          class="col-6 col-md-4"
          label="Most it gives clean"
          kind="volts"
          :problem="problems[`chain.processors.${number}.highest_output_v`]"
          @update:model-value="emit('edited')"
        />
        <SelectField
          v-if="processor.kind === 'converter'"
          v-model="choices.converter_output"
          class="col-md-4"
          label="Trim its output to"
          :options="OUTPUTS"
        />
        <QuantityField
          v-else
          v-model="path.channel_gain_db"
          class="col-6 col-md-4"
          label="Channel gain"
          kind="decibels"
          :problem="problems[`chain.paths.${index}.channel_gain_db`]"
          @update:model-value="emit('edited')"
        />
      </div>
      <template v-if="processor.kind === 'processor'">
        <h3 class="h6">Equaliser</h3>
        <div v-for="(band, place) in path.equaliser" :key="place" class="band">
          <SelectField v-model="band.kind" label="Band" :options="BANDS" />
          <QuantityField
            v-model="band.frequency_hz"
            label="at"
            kind="hertz"
            :problem="problems[`chain.paths.${index}.equaliser.${place}.frequency_hz`]"
            @update:model-value="emit('edited')"
          />
          <QuantityField
            v-model="band.gain_db"
            label="by"
            kind="decibels"
            :problem="problems[`chain.paths.${index}.equaliser.${place}.gain_db`]"
            @update:model-value="emit('edited')"
          />
          <QuantityField v-model="band.q" label="Width" kind="width" @update:model-value="emit('edited')" />
          <BButton variant="plain" :aria-label="`Remove band ${place + 1}`" @click="removeBand(place)"
            >Remove</BButton
          >
        </div>
        <BButton v-if="path.equaliser.length < 31" variant="plain" @click="addBand">Add a band</BButton>
      </template>
    </template>
  </section>
</template>

<style scoped>
.band {
  display: grid;
  grid-template-columns: repeat(4, minmax(0, 1fr)) max-content;
  gap: 0.5rem;
  align-items: center;
}
@media (min-width: 768px) {
  .add {
    padding-top: 1.7rem;
  }
}
@media (max-width: 600px) {
  .band {
    grid-template-columns: repeat(2, minmax(0, 1fr));
  }
}
</style>
