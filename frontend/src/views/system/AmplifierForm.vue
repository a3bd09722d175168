<script setup lang="ts">
/** The amplifier of a path: its channels, what it is rated at, its inputs, and what else is on its front. */
import type { Amplifier, Path } from '@/api/client';
import CheckField from '@/components/CheckField.vue';
import NotSaved from '@/components/NotSaved.vue';
import QuantityField from '@/components/QuantityField.vue';
import SelectField from '@/components/SelectField.vue';
import TextField from '@/components/TextField.vue';
import InputForm from './InputForm.vue';
import RatingsForm from './RatingsForm.vue';

defineProps<{ problems: Record<string, string>; place: string; pathPlace: string }>();
const amplifier = defineModel<Amplifier>({ required: true });
const path = defineModel<Path>('path', { required: true });

const CHANNELS = [
  { value: 2 as const, text: 'Channel pair' },
  { value: 1 as const, text: 'Mono' },
];
const USES = [
  { value: 'per_channel' as const, text: 'Each for itself' },
  { value: 'bridged' as const, text: 'Bridged' },
  { value: 'strapped' as const, text: 'Two strapped' },
];
</script>

<template>
  <section class="sheet">
    <h2 class="h4">Amplifier</h2>
    <div class="row g-2">
      <TextField
        v-model="amplifier.name"
        class="col-md-6"
        label="Amplifier"
        :problem="problems[`${place}.name`]"
      />
      <SelectField v-model="amplifier.channels" class="col-6 col-md-6" label="It is" :options="CHANNELS" />
      <div class="col-6 col-md-6">
        <SelectField v-model="path.mode" label="Channels used" :options="USES" />
        <NotSaved v-if="problems[`${pathPlace}.mode`]" :problem="problems[`${pathPlace}.mode`]!" />
      </div>
      <QuantityField
        v-model="amplifier.lowest_load_ohm"
        :empty="null"
        class="col-md-6"
        label="Lowest load of a channel"
        kind="ohms"
        :problem="problems[`${place}.lowest_load_ohm`]"
      />
    </div>
    <RatingsForm v-model="amplifier" :problems="problems" :place="place" />
    <InputForm
      v-model="amplifier"
      v-model:path="path"
      :problems="problems"
      :place="place"
      :path-place="pathPlace"
    />
    <div class="d-flex flex-wrap gap-3 mt-1">
      <CheckField v-model="amplifier.clip_lamp" label="Has a clip lamp" />
      <CheckField v-model="amplifier.limiter" label="Has a protective limiter" />
      <CheckField v-model="amplifier.regulated" label="Output independent of the supply voltage" />
    </div>
  </section>
</template>
