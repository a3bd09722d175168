<script setup lang="ts">
/** The amplifier of a path: its channels, what it is rated at, its inputs, and what else is on its front. */
import { computed } from 'vue';
import { type Amplifier, api, type Chain, type Choices, type Path } from '@/api/client';
import CheckField from '@/components/CheckField.vue';
import NotSaved from '@/components/NotSaved.vue';
import QuantityField from '@/components/QuantityField.vue';
import SelectField from '@/components/SelectField.vue';
import TextField from '@/components/TextField.vue';
import { useNewParts } from '@/composables/useNewParts';
import { amplifierFigures } from '@/support/specText';
import { TURN_ONS } from '@/support/turnOn';
import CopyFigures from './CopyFigures.vue';
import InputForm from './InputForm.vue';
import NoiseField from './NoiseField.vue';
import OwnMethods from './OwnMethods.vue';
import RatingsForm from './RatingsForm.vue';
import SectionsForm from './SectionsForm.vue';
import ShareAmplifier from './ShareAmplifier.vue';
import SpecText from './SpecText.vue';

defineProps<{ problems: Record<string, string>; place: string; pathPlace: string; choices: Choices }>();
const chain = defineModel<Chain>('chain', { required: true });
const amplifier = defineModel<Amplifier>({ required: true });
const path = defineModel<Path>('path', { required: true });

const CHANNELS = [
  { value: 2 as const, text: 'Channel pair' },
  { value: 1 as const, text: 'Mono' },
];
const USES = [
  { value: 'per_channel' as const, text: 'Stereo' },
  { value: 'bridged' as const, text: 'Bridged' },
  { value: 'strapped' as const, text: 'Two strapped' },
];
const PLACES = [
  { value: 'own' as const, text: 'Own case' },
  { value: 'source' as const, text: 'Inside the source' },
  { value: 'speaker' as const, text: 'Inside an active speaker' },
];
const NOISE_AT = [
  { value: 'rated_output' as const, text: 'Rated output' },
  { value: 'one_watt' as const, text: '1 W' },
];
const KNOB = [
  { name: 'lowest_db' as const, label: 'Knob fully down' },
  { name: 'highest_db' as const, label: 'Knob fully up' },
  { name: 'stands_db' as const, label: 'Set to' },
];
const { fresh } = useNewParts();
const knobbed = computed({
  get: () => amplifier.value.bass_knob != null,
  set: (on: boolean) => {
    amplifier.value.bass_knob = on ? (fresh('bass_knob') ?? null) : null;
  },
});
</script>

<template>
  <section class="sheet">
    <h2 class="h4">Amplifier</h2>
    <div class="d-flex flex-wrap gap-2">
      <ShareAmplifier v-model:chain="chain" v-model:path="path" />
      <CopyFigures v-model:chain="chain" v-model:path="path" kind="amplifier" />
    </div>
    <SectionsForm
      v-model="amplifier"
      v-model:chain="chain"
      v-model:path="path"
      :problems="problems"
      :place="place"
      :path-place="pathPlace"
    />
    <div class="row g-2">
      <TextField
        v-model="amplifier.name"
        class="col-md-6"
        label="Name"
        :problem="problems[`${place}.name`]"
      />
      <SelectField v-model="amplifier.place" class="col-6 col-md-6" label="Housing" :options="PLACES" />
      <SelectField
        v-model="amplifier.channels"
        class="col-6 col-md-4"
        :label="amplifier.sections.length ? 'Type of section' : 'Type'"
        :options="CHANNELS"
      />
      <div class="col-6 col-md-4">
        <SelectField v-model="path.mode" label="Channels used" :options="USES" />
        <NotSaved v-if="problems[`${pathPlace}.mode`]" :problem="problems[`${pathPlace}.mode`]!" />
      </div>
      <QuantityField
        v-model="amplifier.lowest_load_ohm"
        :empty="null"
        class="col-6 col-md-4"
        label="Lowest load of a channel"
        kind="ohms"
        :data-place="`amplifiers.${amplifier.id}.lowest_load_ohm`"
        :problem="problems[`${place}.lowest_load_ohm`]"
      />
    </div>
    <OwnMethods v-model="path" :problems="problems" :path-place="pathPlace" :choices="choices" />
    <RatingsForm
      v-model="amplifier"
      :problems="problems"
      :place="place"
      :mark="`amplifiers.${amplifier.id}`"
    />
    <SpecText
      v-model="amplifier"
      :read="api.readAmplifierSpec"
      :figures="amplifierFigures"
      example="75 W x 4 @ 4 ohm (1 % THD, 14.4 V)"
    />
    <InputForm
      v-model="amplifier"
      v-model:path="path"
      :problems="problems"
      :place="place"
      :path-place="pathPlace"
    />
    <div class="d-flex flex-wrap gap-3 mt-1">
      <CheckField v-model="amplifier.clip_lamp" label="Clip light" />
      <CheckField v-model="amplifier.limiter" label="Protective limiter" />
      <CheckField v-model="amplifier.regulated" label="Regulated supply" />
      <CheckField v-model="knobbed" label="Remote level knob plugged in" />
    </div>
    <div class="row g-2">
      <SelectField
        v-if="path.input === 'high' || amplifier.turn_on === 'sensing'"
        v-model="amplifier.turn_on"
        class="col-6 col-md-4"
        label="Turns on"
        :options="TURN_ONS"
      />
      <NoiseField v-model="amplifier" class="col-6 col-md-4" :problems="problems" :place="place" />
      <SelectField
        v-if="amplifier.signal_to_noise_db != null"
        v-model="amplifier.signal_to_noise_at"
        class="col-6 col-md-4"
        label="Ratio refers to"
        :options="NOISE_AT"
      />
    </div>
    <div v-if="amplifier.bass_knob" class="row g-2">
      <QuantityField
        v-for="field in KNOB"
        :key="field.name"
        v-model="amplifier.bass_knob[field.name]"
        class="col-4"
        :label="field.label"
        kind="decibels"
        :problem="problems[`${place}.bass_knob.${field.name}`]"
      />
    </div>
  </section>
</template>
