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
const plan = computed(() => view.value?.run.plan);
</script>

<template>
  <template v-if="plan">
    <div class="d-flex flex-wrap align-items-center justify-content-between gap-2 mb-2">
      <h1 class="m-0">Plan</h1>
      <RouterLink class="btn btn-primary" :to="{ name: 'run', params: { id } }">To the run</RouterLink>
    </div>
    <div class="d-grid gap-2 mb-3">
      <p v-for="source in plan.sources" :key="source.source" class="m-0">
        <strong>Top volume{{ plan.sources.length > 1 ? `, ${source.name}` : '' }}: </strong>
        <strong v-if="source.volume != null" class="digits">{{ source.volume }}. </strong>
        {{ source.sentence }}
        <span v-if="source.volume == null" class="quiet"
          >With only a meter it would end at {{ source.fallback_volume }}.</span
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
    <CautionList class="mb-3" :cautions="plan.common_cautions ?? []" />
    <section v-for="path in plan.paths" :id="`path-${path.path}`" :key="path.path" class="row g-3 mb-4">
      <div class="col-lg-8 d-grid gap-3 column">
        <PathSheet :path="path" />
      </div>
      <aside class="col-lg-4 d-grid gap-3 align-content-start">
        <div class="sheet"><TheTower :courses="path.courses" /></div>
        <CautionList :cautions="path.cautions ?? []" />
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
