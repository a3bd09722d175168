<script setup lang="ts">
/** What lies between source and amplifier on this path: nothing, or converters and processors one after the other. */
import { computed } from 'vue';
import type { Chain, Choices, Path } from '@/api/client';
import QuantityField from '@/components/QuantityField.vue';
import SelectField from '@/components/SelectField.vue';
import StatedField from '@/components/StatedField.vue';
import TextField from '@/components/TextField.vue';
import { useNewParts } from '@/composables/useNewParts';
import { newId, takeOut } from '@/support/ids';
import EqualiserForm from './EqualiserForm.vue';
import SidesForm from './SidesForm.vue';

const props = defineProps<{ problems: Record<string, string>; index: number }>();
const chain = defineModel<Chain>('chain', { required: true });
const path = defineModel<Path>('path', { required: true });
const choices = defineModel<Choices>('choices', { required: true });

/** Where the stages of this path stand among all processors, the first after the source first. */
const stages = computed(() =>
  path.value.through.map((id) => chain.value.processors.findIndex((processor) => processor.id === id)),
);
/** Whether any stage could do gains and bands for this path. */
const shaped = computed(() =>
  stages.value.some((stage) => chain.value.processors[stage]?.kind === 'processor'),
);
const KINDS = [
  { value: 'processor' as const, text: 'Processor (DSP)' },
  { value: 'converter' as const, text: 'Converter' },
];
const TURN_ONS = [
  { value: 'lead' as const, text: 'Remote lead' },
  { value: 'sensing' as const, text: 'Signal sensing' },
];
const OUTPUTS = [
  { value: '1.5' as const, text: '1.5 V: fits every amplifier' },
  { value: '2' as const, text: '2 V: a good signal' },
  { value: 'clean' as const, text: 'As high as it stays clean: least noise' },
];
/** In a case of its own, or inside the amplifier of this path. */
const cases = computed(() => {
  const amplifier = chain.value.amplifiers.find((amplifier) => amplifier.id === path.value.amplifier);
  return [
    { value: null as string | null, text: 'Own case' },
    { value: path.value.amplifier, text: `Inside ${amplifier?.name || 'the amplifier'}` },
  ];
});
const unused = computed(() =>
  chain.value.processors
    .map((processor, index) => ({ value: processor.id, text: processor.name || `Unnamed ${index + 1}` }))
    .filter((one) => !path.value.through.includes(one.value)),
);
const next = computed({
  get: () => '',
  set: (id: string) => put(id),
});

const { fresh } = useNewParts();
function put(id: string): void {
  if (id) path.value.through = [...path.value.through, id];
}
function add(kind: 'processor' | 'converter'): void {
  const part = fresh(kind);
  if (!part) return;
  part.id = newId(kind);
  chain.value.processors.push(part);
  put(part.id);
}
function take(place: number): void {
  const gone = path.value.through[place];
  path.value.through = path.value.through.filter((_, index) => index !== place);
  // One that no path goes through any more is gone for good.
  if (!chain.value.paths.some((path) => gone && path.through.includes(gone)))
    takeOut(chain.value.processors, gone);
}
function forward(place: number): void {
  const order = [...path.value.through];
  order.splice(place - 1, 0, ...order.splice(place, 1));
  path.value.through = order;
}
const at = (number: number, field: string) => props.problems[`chain.processors.${number}.${field}`];
</script>

<template>
  <section class="sheet">
    <h2 class="h4">Converter or processor</h2>
    <p v-if="!stages.length" class="quiet">None: the source feeds the amplifier directly.</p>
    <template v-for="(number, place) in stages" :key="path.through[place]">
      <fieldset v-if="chain.processors[number]" class="stage">
        <legend class="h6">
          {{ place + 1 }}. {{ chain.processors[number].name || 'Unnamed' }}
          <BButton
            v-if="place"
            variant="plain"
            :aria-label="`Move ${place + 1} towards the source`"
            @click="forward(place)"
            >Earlier</BButton
          >
          <BButton variant="plain" :aria-label="`Remove ${place + 1}`" @click="take(place)">Remove</BButton>
        </legend>
        <div class="row g-2">
          <TextField
            v-model="chain.processors[number].name"
            class="col-md-4"
            label="Name"
            :problem="at(number, 'name')"
          />
          <SelectField
            v-model="chain.processors[number].kind"
            class="col-6 col-md-4"
            label="Type"
            :options="KINDS"
          />
          <SelectField
            v-model="chain.processors[number].turn_on"
            class="col-6 col-md-4"
            label="Turns on"
            :options="TURN_ONS"
          />
          <SelectField
            v-if="chain.processors[number].kind === 'processor'"
            v-model="chain.processors[number].inside"
            class="col-md-6"
            label="Housing"
            :options="cases"
          />
          <StatedField
            v-model="chain.processors[number].highest_input"
            class="col-md-6"
            label="Max input"
            :mark="`processors.${chain.processors[number].id}.highest_input`"
            :problems="problems"
            :place="`chain.processors.${number}.highest_input`"
          />
          <QuantityField
            v-model="chain.processors[number].lowest_output_v"
            :empty="null"
            class="col-6 col-md-3"
            label="Lowest output"
            :mark="`processors.${chain.processors[number].id}.lowest_output_v`"
            kind="volts"
            :problem="at(number, 'lowest_output_v')"
          />
          <QuantityField
            v-model="chain.processors[number].highest_output_v"
            class="col-6 col-md-3"
            label="Max clean output"
            :mark="`processors.${chain.processors[number].id}.highest_output_v`"
            kind="volts"
            :usual="fresh('processor')?.highest_output_v"
            :problem="at(number, 'highest_output_v')"
          />
          <template v-if="chain.processors[number].kind === 'processor'">
            <QuantityField
              v-model="chain.processors[number].input_full_scale_v"
              :empty="null"
              class="col-6 col-md-3"
              label="Input full scale"
              kind="volts"
              unknown="as max input"
              hint="0 dBFS, as trimmed"
              :problem="at(number, 'input_full_scale_v')"
            />
            <QuantityField
              v-model="chain.processors[number].output_full_scale_v"
              :empty="null"
              class="col-6 col-md-3"
              label="Output full scale"
              kind="volts"
              unknown="as max output"
              hint="All gains at 0 dB"
              :problem="at(number, 'output_full_scale_v')"
            />
          </template>
          <StatedField
            v-if="chain.processors[number].kind === 'converter'"
            v-model="chain.processors[number].lowest_input"
            class="col-md-6"
            label="Input for full output"
            :problems="problems"
            :place="`chain.processors.${number}.lowest_input`"
          />
          <QuantityField
            v-if="chain.processors[number].kind === 'converter'"
            v-model="chain.processors[number].lowest_gain_db"
            :empty="null"
            class="col-6 col-md-3"
            label="Lowest gain"
            kind="decibels"
            unknown="not stated"
            :problem="at(number, 'lowest_gain_db')"
          />
          <QuantityField
            v-if="chain.processors[number].kind === 'converter'"
            v-model="chain.processors[number].highest_gain_db"
            :empty="null"
            class="col-6 col-md-3"
            label="Highest gain"
            kind="decibels"
            unknown="not stated"
            :problem="at(number, 'highest_gain_db')"
          />
          <SelectField
            v-if="chain.processors[number].kind === 'converter'"
            v-model="choices.converter_output"
            class="col-md-6"
            label="Set its output to"
            :options="OUTPUTS"
          />
        </div>
      </fieldset>
    </template>
    <div v-if="stages.length < 4" class="d-flex flex-wrap gap-2 align-items-center">
      <BButton variant="plain" @click="add('converter')">Add a converter</BButton>
      <BButton variant="plain" @click="add('processor')">Add a processor</BButton>
      <SelectField
        v-if="unused.length"
        v-model="next"
        label="or one of another path"
        :options="[{ value: '', text: 'choose …' }, ...unused]"
      />
    </div>
    <template v-if="shaped">
      <div class="row g-2 mt-2">
        <QuantityField
          v-model="path.channel_gain_db"
          :usual="0"
          class="col-6 col-md-4"
          label="Channel gain"
          kind="decibels"
          :problem="problems[`chain.paths.${index}.channel_gain_db`]"
        />
      </div>
      <SidesForm v-model="path" :problems="problems" :index="index" />
      <EqualiserForm v-model="path" :problems="problems" :index="index" />
    </template>
  </section>
</template>

<style scoped>
.stage {
  padding-bottom: 0.4rem;
  margin-bottom: 0.8rem;
  border-bottom: 1px solid var(--line);
}
legend {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem;
  align-items: center;
}
</style>
