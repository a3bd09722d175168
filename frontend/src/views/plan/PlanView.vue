<script setup lang="ts">
import { computed } from 'vue';
import CautionList from '@/components/CautionList.vue';
import FindingList from '@/components/FindingList.vue';
import TheTower from '@/components/TheTower.vue';
import { useJob } from '@/composables/useJob';
import CrossoverSheet from './CrossoverSheet.vue';
import PathIndex from './PathIndex.vue';
import PathSheet from './PathSheet.vue';

const { id, view } = useJob();
const run = computed(() => view.value?.run);
const plan = computed(() => run.value?.plan);

function cautionsOf(path: string) {
  return run.value?.steps.find((step) => step.path === path)?.cautions ?? [];
}

/** What holds for every path is said once, what holds for one alone beside it. */
const everywhere = computed(() => {
  const all = plan.value?.paths.map((path) => cautionsOf(path.path)) ?? [];
  return (all[0] ?? []).filter((one) => all.every((path) => path.some((other) => other.key === one.key)));
});

const only = (path: string) =>
  cautionsOf(path).filter((one) => !everywhere.value.some((other) => other.key === one.key));
</script>

<template>
  <template v-if="plan">
    <div class="d-flex flex-wrap align-items-center justify-content-between gap-2 mb-2">
      <h1 class="m-0">Plan</h1>
      <RouterLink class="btn btn-primary" :to="{ name: 'run', params: { id } }">To the run</RouterLink>
    </div>
    <div class="d-grid gap-2 mb-3">
      <p class="m-0">
        <strong>Top volume: </strong>
        <strong v-if="plan.top_volume.volume != null" class="digits">{{ plan.top_volume.volume }}. </strong>
        {{ plan.top_volume.sentence }}
        <span v-if="plan.top_volume.volume == null" class="quiet"
          >With only a meter it would end at {{ plan.fallback_volume }}.</span
        >
      </p>
      <FindingList :findings="plan.findings ?? []" />
      <section v-for="lack in plan.lacking" :key="lack.path" class="sheet">
        <h2 class="h5 mb-1">{{ lack.name }}: not planned yet</h2>
        <p class="m-0">
          {{ lack.sentence }}
          <RouterLink :to="{ name: 'system', params: { id } }">To the system</RouterLink>
        </p>
      </section>
    </div>
    <PathIndex v-if="plan.paths.length > 1" :paths="plan.paths" />
    <CautionList class="mb-3" :cautions="everywhere" />
    <section v-for="path in plan.paths" :id="`path-${path.path}`" :key="path.path" class="row g-3 mb-4">
      <div class="col-lg-8 d-grid gap-3 column">
        <PathSheet :path="path" />
      </div>
      <aside class="col-lg-4 d-grid gap-3 align-content-start">
        <div class="sheet"><TheTower :courses="path.courses" /></div>
        <CautionList :cautions="only(path.path)" />
      </aside>
    </section>
    <CrossoverSheet
      v-if="
        plan.crossovers.corners.length || plan.crossovers.findings.length || plan.crossovers.proposals.length
      "
      class="mt-3"
      :plan="plan.crossovers"
    />
  </template>
</template>

<style scoped>
.column {
  grid-template-columns: minmax(0, 1fr);
}
</style>
