<script setup lang="ts">
/** Recorded noise as third octaves: factory wires beside each other, groups in the cabin against the wanted curve. */
import { useQuery } from '@tanstack/vue-query';
import { computed } from 'vue';
import { api } from '@/api/client';
import ResponsePaper from '@/components/ResponsePaper.vue';
import { useJob } from '@/composables/useJob';
import { dashOf } from '@/support/axes';

const props = defineProps<{
  /** Only what this step took; everything without it. */
  step?: string;
}>();
const { id, view } = useJob();
// Asked anew whenever the run changed.
const { data } = useQuery({
  queryKey: computed(() => ['spectra', id.value, view.value]),
  queryFn: () => api.spectra(id.value),
  placeholderData: (former) => former,
});
const papers = computed(() =>
  (data.value ?? [])
    .filter((spectrum) => props.step === undefined || spectrum.steps.includes(props.step))
    .map((spectrum) => ({
      ...spectrum,
      drawn: spectrum.lines.map((line, index) => ({
        name: line.name,
        dash: dashOf(index),
        levels: line.levels_db,
      })),
    })),
);
</script>

<template>
  <section v-for="paper in papers" :key="paper.name">
    <h3 class="h5">{{ paper.name }}</h3>
    <ResponsePaper
      :label="`${paper.name}: third octaves of the recordings`"
      :hertz="paper.hertz"
      :lines="paper.drawn"
      :sum="paper.wanted_db ?? undefined"
      sum-name="wanted"
    />
    <p class="quiet">Third octaves of pink noise. 0 dB is {{ paper.zero }}.</p>
  </section>
</template>
