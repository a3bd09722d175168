<script setup lang="ts">
/** One converter or processor by its data sheet, and how this path uses it. */
import { computed } from 'vue';
import type { Chain, Choices, Path } from '@/api/client';
import QuantityField from '@/components/QuantityField.vue';
import SelectField from '@/components/SelectField.vue';
import StatedField from '@/components/StatedField.vue';
import TextField from '@/components/TextField.vue';
import { useNewParts } from '@/composables/useNewParts';
import { TURN_ONS } from '@/support/turnOn';
import NoiseField from './NoiseField.vue';

const props = defineProps<{
  chain: Chain;
  problems: Record<string, string>;
  place: string;
  pathPlace: string;
}>();
const stage = defineModel<Chain['processors'][number]>({ required: true });
const path = defineModel<Path>('path', { required: true });
const choices = defineModel<Choices>('choices', { required: true });

const KINDS = [
  { value: 'processor' as const, text: 'Processor (DSP)' },
  { value: 'converter' as const, text: 'Converter' },
];
const OUTPUTS = [
  { value: '1.5' as const, text: '1.5 V: fits every amplifier' },
  { value: '2' as const, text: '2 V: a good signal' },
  { value: '4' as const, text: '4 V: less noise' },
  { value: 'typed' as const, text: 'Volts that you type' },
  { value: 'clean' as const, text: 'As high as it stays clean: least noise' },
];
/** In a case of its own, or inside the amplifier of this path. */
const cases = computed(() => {
  const amplifier = props.chain.amplifiers.find((amplifier) => amplifier.id === path.value.amplifier);
  return [
    { value: null as string | null, text: 'Own case' },
    { value: path.value.amplifier, text: `Inside ${amplifier?.name || 'the amplifier'}` },
  ];
});
const { fresh } = useNewParts();
const at = (field: string) => props.problems[`${props.place}.${field}`];
</script>

<template>
  <div class="row g-2">
    <TextField v-model="stage.name" class="col-md-4" label="Name" :problem="at('name')" />
    <SelectField v-model="stage.kind" class="col-6 col-md-4" label="Type" :options="KINDS" />
    <SelectField v-model="stage.turn_on" class="col-6 col-md-4" label="Turns on" :options="TURN_ONS" />
    <SelectField
      v-if="stage.kind === 'processor'"
      v-model="stage.inside"
      class="col-md-6"
      label="Housing"
      :options="cases"
    />
    <StatedField
      v-model="stage.highest_input"
      class="col-md-6"
      label="Max input"
      :mark="`processors.${stage.id}.highest_input`"
      :problems="problems"
      :place="`${place}.highest_input`"
    />
    <QuantityField
      v-model="stage.lowest_output_v"
      :empty="null"
      class="col-6 col-md-3"
      label="Lowest output"
      :mark="`processors.${stage.id}.lowest_output_v`"
      kind="volts"
      :problem="at('lowest_output_v')"
    />
    <QuantityField
      v-model="stage.highest_output_v"
      class="col-6 col-md-3"
      label="Max clean output"
      :mark="`processors.${stage.id}.highest_output_v`"
      kind="volts"
      :usual="fresh('processor')?.highest_output_v"
      :problem="at('highest_output_v')"
    />
    <NoiseField v-model="stage" class="col-6 col-md-3" :problems="problems" :place="place" />
    <template v-if="stage.kind === 'processor'">
      <QuantityField
        v-model="stage.input_full_scale_v"
        :empty="null"
        class="col-6 col-md-3"
        label="Input full scale"
        kind="volts"
        unknown="as max input"
        hint="0 dBFS, as trimmed"
        :problem="at('input_full_scale_v')"
      />
      <QuantityField
        v-model="stage.output_full_scale_v"
        :empty="null"
        class="col-6 col-md-3"
        label="Output full scale"
        kind="volts"
        unknown="as max output"
        hint="All gains at 0 dB"
        :problem="at('output_full_scale_v')"
      />
    </template>
    <StatedField
      v-if="stage.kind === 'converter'"
      v-model="stage.lowest_input"
      class="col-md-6"
      label="Input for full output"
      :problems="problems"
      :place="`${place}.lowest_input`"
    />
    <QuantityField
      v-if="stage.kind === 'converter'"
      v-model="stage.lowest_gain_db"
      :empty="null"
      class="col-6 col-md-3"
      label="Lowest gain"
      kind="decibels"
      unknown="not stated"
      :problem="at('lowest_gain_db')"
    />
    <QuantityField
      v-if="stage.kind === 'converter'"
      v-model="stage.highest_gain_db"
      :empty="null"
      class="col-6 col-md-3"
      label="Highest gain"
      kind="decibels"
      unknown="not stated"
      :problem="at('highest_gain_db')"
    />
    <TextField
      v-if="stage.kind === 'converter'"
      v-model="path.converter_output"
      class="col-md-6"
      label="Output that this path uses"
      hint="As printed beside the plug"
      :problem="problems[`${pathPlace}.converter_output`]"
    />
    <SelectField
      v-if="stage.kind === 'converter'"
      v-model="choices.converter_output"
      class="col-md-6"
      label="Set its output to"
      :options="OUTPUTS"
    />
    <QuantityField
      v-if="stage.kind === 'converter' && choices.converter_output === 'typed'"
      v-model="choices.converter_v"
      class="col-6 col-md-3"
      label="Volts there"
      kind="volts"
      :problem="problems['choices.converter_v']"
    />
  </div>
</template>
