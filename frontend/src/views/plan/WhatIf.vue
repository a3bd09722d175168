<script setup lang="ts">
/** What is tried out: the figures of the chosen path that move most, and the methods. */
import { computed } from 'vue';
import type { JobSheet } from '@/api/client';
import FoldBox from '@/components/FoldBox.vue';
import QuantityField from '@/components/QuantityField.vue';
import SelectField from '@/components/SelectField.vue';
import ChoicesForm from '@/views/system/ChoicesForm.vue';

const props = defineProps<{ path: string | undefined; problem: string }>();
const sheet = defineModel<JobSheet>({ required: true });
const emit = defineEmits<{ keep: []; drop: [] }>();

const chain = computed(() => sheet.value.chain);
const path = computed(() => chain.value.paths.find((path) => path.id === props.path));
const output = computed(() =>
  chain.value.sources
    .find((source) => source.id === path.value?.source)
    ?.outputs.find((output) => output.id === path.value?.output),
);
const amplifier = computed(() =>
  chain.value.amplifiers.find((amplifier) => amplifier.id === path.value?.amplifier),
);
const section = computed(() =>
  amplifier.value?.sections.find((section) => section.id === path.value?.section),
);
/** Where the first rating of this path stands: its section's own, or the amplifier's. */
const rating = computed(() => section.value?.ratings[0] ?? amplifier.value?.ratings[0]);
const load = computed(() => chain.value.loads.find((load) => load.id === path.value?.load));
const shaped = computed(() =>
  chain.value.processors.some(
    (processor) => processor.kind === 'processor' && path.value?.through.includes(processor.id),
  ),
);
const MODES = [
  { value: 'per_channel' as const, text: 'Each for itself' },
  { value: 'bridged' as const, text: 'Bridged' },
  { value: 'strapped' as const, text: 'Two strapped' },
];
const WIRINGS = [
  { value: 'parallel' as const, text: 'Parallel' },
  { value: 'series' as const, text: 'Series' },
];
</script>

<template>
  <section class="sheet trial" aria-label="What if">
    <div class="d-flex flex-wrap align-items-center justify-content-between gap-2">
      <h2 class="h4 m-0">What if …</h2>
      <div class="d-flex gap-2">
        <BButton variant="primary" @click="emit('keep')">Keep the changes</BButton>
        <BButton variant="plain" @click="emit('drop')">Discard</BButton>
      </div>
    </div>
    <p class="quiet mb-1">
      Changes are not saved until you keep them. New values appear beside the old ones.
    </p>
    <p v-if="problem" class="said-clipped fw-bold" role="alert">{{ problem }}</p>
    <h3 v-if="path" class="h6">{{ path.name }}</h3>
    <div v-if="path && amplifier && load" class="fields">
      <QuantityField
        v-if="output && output.rated.watts == null"
        v-model="output.rated.volts"
        :empty="null"
        label="Its source gives"
        kind="volts"
      />
      <QuantityField v-if="shaped" v-model="path.channel_gain_db" label="Channel gain" kind="decibels" />
      <QuantityField
        v-if="rating"
        v-model="rating.power_w"
        :label="`Amplifier, into ${rating.load_ohm} Ω`"
        kind="watts"
      />
      <SelectField
        v-if="(section?.channels ?? amplifier.channels) === 2"
        v-model="path.mode"
        label="Channels used"
        :options="MODES"
      />
      <QuantityField v-model="load.power_w" :empty="null" label="Rated power of one" kind="watts" />
      <QuantityField v-model="load.impedance_ohm" :empty="null" label="One speaker has" kind="ohms" />
      <QuantityField v-model="load.count" label="Speakers on a channel" kind="count" />
      <SelectField v-if="load.count > 1" v-model="load.wiring" label="joined in" :options="WIRINGS" />
    </div>
    <FoldBox title="Methods">
      <ChoicesForm v-model="sheet.choices" :problems="{}" />
    </FoldBox>
  </section>
</template>

<style scoped>
.trial {
  border-style: dashed;
  border-width: 2px;
}
.fields {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(11rem, 1fr));
  gap: 0.4rem 1rem;
}
</style>
