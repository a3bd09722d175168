<script setup lang="ts">
/** What lies between source and amplifier on this path: nothing, or converters and processors one after the other. */
import { computed } from 'vue';
import type { Chain, Choices, Path } from '@/api/client';
import QuantityField from '@/components/QuantityField.vue';
import SelectField from '@/components/SelectField.vue';
import { useNewParts } from '@/composables/useNewParts';
import { newId, takeOut } from '@/support/ids';
import EqualiserForm from './EqualiserForm.vue';
import SidesForm from './SidesForm.vue';
import StageForm from './StageForm.vue';

defineProps<{ problems: Record<string, string>; index: number }>();
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
const unused = computed(() =>
  chain.value.processors
    .map((processor, index) => ({ value: processor.id, text: processor.name || `Unnamed ${index + 1}` }))
    .filter((choice) => !path.value.through.includes(choice.value)),
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
        <StageForm
          v-model="chain.processors[number]"
          v-model:path="path"
          v-model:choices="choices"
          :chain="chain"
          :problems="problems"
          :place="`chain.processors.${number}`"
          :path-place="`chain.paths.${index}`"
        />
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
