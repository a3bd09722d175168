<script setup lang="ts">
/** Which section of its amplifier a path uses, and the figures of that section. */
import { computed } from 'vue';
import type { Amplifier, Chain, Path } from '@/api/client';
import FoldBox from '@/components/FoldBox.vue';
import NotSaved from '@/components/NotSaved.vue';
import QuantityField from '@/components/QuantityField.vue';
import SelectField from '@/components/SelectField.vue';
import TextField from '@/components/TextField.vue';
import { useNewParts } from '@/composables/useNewParts';
import { freeSections, newId, takeOut } from '@/support/ids';
import RangesForm from './RangesForm.vue';
import RatingsForm from './RatingsForm.vue';

const props = defineProps<{ problems: Record<string, string>; place: string; pathPlace: string }>();
const chain = defineModel<Chain>('chain', { required: true });
const amplifier = defineModel<Amplifier>({ required: true });
const path = defineModel<Path>('path', { required: true });

const CHANNELS = [
  { value: null, text: 'Same as the amplifier' },
  { value: 2 as const, text: 'A pair' },
  { value: 1 as const, text: 'Mono' },
];
const number = computed(() =>
  amplifier.value.sections.findIndex((section) => section.id === path.value.section),
);
const section = computed(() => amplifier.value.sections[number.value]);
const nameOf = (amplifier: Amplifier, id: string) => {
  const index = amplifier.sections.findIndex((section) => section.id === id);
  return amplifier.sections[index]?.name || `Section ${index + 1}`;
};
const free = computed(() =>
  amplifier.value.sections
    .map((section) => section.id)
    .filter((id) => id === path.value.section || freeSections(chain.value, amplifier.value).includes(id)),
);
const sections = computed(() =>
  free.value.map((id) => ({ value: id as string | null, text: nameOf(amplifier.value, id) })),
);
const { fresh } = useNewParts();
function add(): void {
  const part = fresh('section');
  if (!part) return;
  part.id = newId('section');
  amplifier.value.sections.push(part);
}
/** What was the amplifier becomes its first section, and there is a second one. */
function divide(): void {
  add();
  path.value.section = amplifier.value.sections[0]?.id ?? null;
  add();
}
function remove(): void {
  const gone = path.value.section;
  const next = free.value.find((id) => id !== gone);
  if (!next) return;
  path.value.section = next;
  takeOut(amplifier.value.sections, gone ?? undefined);
}
const own = computed(() => `${props.place}.sections.${number.value}`);
const problem = computed(
  () => props.problems[`${props.pathPlace}.section`] ?? props.problems[`${props.pathPlace}.amplifier`],
);
</script>

<template>
  <div class="d-flex flex-wrap gap-2 align-items-center">
    <SelectField
      v-if="amplifier.sections.length"
      v-model="path.section"
      label="Section used"
      :options="sections"
      class="which"
    />
    <BButton v-if="!amplifier.sections.length" variant="plain" @click="divide">Split into sections</BButton>
    <BButton v-else-if="amplifier.sections.length < 8" variant="plain" @click="add">Add a section</BButton>
    <BButton v-if="free.length > 1" variant="plain" @click="remove">Remove this section</BButton>
    <NotSaved v-if="problem" :problem="problem" />
  </div>
  <fieldset v-if="section" class="section">
    <legend class="visually-hidden">Section of this path</legend>
    <div class="row g-2">
      <TextField
        v-model="section.name"
        class="col-md-4"
        label="This section"
        hint="Channels 1 and 2, sub …"
        :problem="problems[`${own}.name`]"
      />
      <SelectField v-model="section.channels" class="col-md-4" label="Type" :options="CHANNELS" />
      <QuantityField
        v-model="section.lowest_load_ohm"
        :empty="null"
        class="col-md-4"
        label="Lowest load"
        kind="ohms"
        unknown="same as the amplifier"
        :problem="problems[`${own}.lowest_load_ohm`]"
      />
    </div>
    <FoldBox title="Figures of this section" :open="section.ratings.length > 0">
      <RatingsForm
        v-model="section"
        :problems="problems"
        :place="own"
        :mark="`amplifiers.${amplifier.id}.sections.${section.id}`"
        title="Watts of this section"
        none="Same as the amplifier."
      />
      <RangesForm
        v-model="section"
        :problems="problems"
        :place="own"
        :mark="`amplifiers.${amplifier.id}.sections.${section.id}`"
        :words="(input: string) => `${input}: own gain range`"
      />
    </FoldBox>
  </fieldset>
</template>

<style scoped>
.which {
  flex: 0 1 15rem;
}
.section {
  padding-left: 0.8rem;
  border-left: 3px solid var(--clean);
  margin: 0.3rem 0 0.6rem;
}
</style>
