<script setup lang="ts">
import { computed } from 'vue';
import type { VolumeStepsView } from '@/api/client';
import VolumeStepsPaper from '@/components/VolumeStepsPaper.vue';
import { formatDb, steadyNumber } from '@/support/quantity';

const props = defineProps<{ view: VolumeStepsView }>();
const WORDS = {
  found: 'Clean maximum found',
  bounded: 'Clean maximum within bounds',
  not_reached: 'Not clipped yet',
  cannot_tell: 'Can’t tell',
};
const report = computed(() => props.view.report);
</script>

<template>
  <section class="d-grid gap-3" aria-label="Volume steps">
    <div class="sheet">
      <p class="verdict m-0" :class="report.verdict === 'found' ? 'said-clean' : 'said-edge'">
        {{ WORDS[report.verdict] }}
      </p>
      <div v-if="report.surely_volume != null" class="d-flex flex-wrap gap-4">
        <p class="figure digits m-0">{{ report.surely_volume }}<small> surely clean</small></p>
        <p class="figure digits m-0">{{ report.perhaps_volume }}<small> perhaps clean</small></p>
      </div>
      <div v-if="report.clean_volume != null" class="d-flex flex-wrap gap-4">
        <p class="figure digits m-0">{{ report.clean_volume }}<small> clean maximum</small></p>
        <p v-if="report.clean_v_rms != null" class="figure digits m-0">
          {{ steadyNumber(report.clean_v_rms, 3) }}<small> V clean maximum</small>
          <span class="quiet"> ± {{ formatDb(report.uncertainty_db ?? 0, 2) }}</span>
        </p>
      </div>
    </div>
    <div class="sheet paper">
      <VolumeStepsPaper v-if="view.points?.length" :view="view" />
      <p v-if="view.points?.some((point) => point.line_v != null)" class="key quiet">
        Dots: readings. Dashed: a source that never clips. Red: the best fit.
      </p>
    </div>
    <div class="sheet">
      <h3 class="h5">Why</h3>
      <ul class="m-0">
        <li v-for="reason in report.reasons" :key="reason">{{ reason }}</li>
      </ul>
    </div>
  </section>
</template>

<style scoped>
.verdict {
  font-size: 1.7rem;
  font-weight: 650;
}
.figure {
  font-size: 2.6rem;
  font-weight: 650;
  line-height: 1.1;
}
.figure small,
.figure span {
  font-size: 0.45em;
}
.paper {
  padding: 0.6rem 0.4rem;
}
.key {
  margin: 0.4rem 0.8rem 0;
  font-size: 0.9rem;
}
ul {
  padding-left: 1.1rem;
}
</style>
