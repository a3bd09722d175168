<script setup lang="ts">
/** Labels to stick on, on whatever sheet of labels is at hand: its grid is typed once and kept on this device. */
import { useLocalStorage } from '@vueuse/core';
import { ref } from 'vue';
import { api } from '@/api/client';
import FoldBox from '@/components/FoldBox.vue';
import QuantityField from '@/components/QuantityField.vue';
import { useTrying } from '@/composables/useTrying';
import { paperOf } from '@/support/papers';
import { saveFile } from '@/support/saveFile';

const props = defineProps<{ job: string; name: string }>();
/** Grids that are common on each paper; whatever the packet states is typed over them. */
const USUAL = {
  A4: { columns: 3, rows: 7, width_mm: 63.5, height_mm: 38.1, left_mm: 7.2, top_mm: 15.1, gap_x_mm: 2.5 },
  letter: {
    columns: 3,
    rows: 10,
    width_mm: 66.7,
    height_mm: 25.4,
    left_mm: 4.8,
    top_mm: 12.7,
    gap_x_mm: 3.1,
  },
};
const grid = useLocalStorage('rook.labels', { ...USUAL[paperOf()], gap_y_mm: 0 }, { mergeDefaults: true });
const first = ref(1);
const { trouble, trying } = useTrying();

const draw = (ending: 'pdf' | 'svg') =>
  trying(async () => {
    const asked = { ...grid.value, first: first.value, paper: paperOf() };
    const drawn = await (ending === 'pdf' ? api.labels(props.job, asked) : api.labelPage(props.job, asked));
    saveFile(drawn, `${props.name} labels.${ending}`);
  });
</script>

<template>
  <FoldBox title="Labels to stick on">
    <p class="quiet">
      The number beside the source, the volts beside each gain, what each wire of a plug is. Type the grid as
      the packet of labels states it; print at 100 %.
    </p>
    <form class="grid" @submit.prevent="draw('pdf')">
      <QuantityField v-model="grid.columns" label="Columns" kind="count" />
      <QuantityField v-model="grid.rows" label="Rows" kind="count" />
      <QuantityField v-model="grid.width_mm" label="Width of a label" kind="millimetres" />
      <QuantityField v-model="grid.height_mm" label="Height of a label" kind="millimetres" />
      <QuantityField v-model="grid.left_mm" label="Left margin" kind="millimetres" />
      <QuantityField v-model="grid.top_mm" label="Top margin" kind="millimetres" />
      <QuantityField v-model="grid.gap_x_mm" label="Gap between columns" kind="millimetres" />
      <QuantityField v-model="grid.gap_y_mm" label="Gap between rows" kind="millimetres" />
      <QuantityField v-model="first" label="Begin at label" kind="count" hint="Of a sheet that was begun" />
      <div class="acts">
        <BButton type="submit" variant="primary">Labels (PDF)</BButton>
        <BButton variant="plain" @click="draw('svg')">First sheet (SVG)</BButton>
      </div>
    </form>
    <p v-if="trouble" class="said-clipped mb-0" role="alert">{{ trouble }}</p>
  </FoldBox>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(10rem, 1fr));
  gap: 0.6rem 1rem;
}
.acts {
  grid-column: 1 / -1;
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem;
}
</style>
