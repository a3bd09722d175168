<script setup lang="ts">
/** The crossovers: every path's response on one paper, and how each corner is set by voltage. */
import { computed } from 'vue';
import type { CrossoverPlan } from '@/api/client';
import FindingList from '@/components/FindingList.vue';
import PaperChart from '@/components/PaperChart.vue';
import TheArithmetic from '@/components/TheArithmetic.vue';
import CornerCheck from './CornerCheck.vue';
import { frequencyTicks, linePath, numberTicks } from '@/support/axes';

const props = defineProps<{ plan: CrossoverPlan }>();
const DASHES = ['', '10 5', '3 4', '12 4 3 4', '1 5'];
const x = { from: 20, to: 20000, log: true };
const top = computed(() => Math.max(6, ...props.plan.responses.flatMap((one) => one.level_db)) + 3);
const y = computed(() => ({ from: -36, to: top.value }));
const yTicks = computed(() => numberTicks(-36, top.value, 6));
const hertz = computed(() => props.plan.frequencies_hz);
type At = (value: number) => number;
const curve = (levels: number[], atX: At, atY: At) =>
  linePath(levels.map((level, index) => (level < -36 ? null : [atX(hertz.value[index] ?? 20), atY(level)])));
</script>

<template>
  <section class="sheet">
    <h2 class="h4">Crossovers</h2>
    <PaperChart
      v-slot="{ atX, atY }"
      :x="x"
      :y="y"
      :x-ticks="frequencyTicks(20, 20000)"
      :y-ticks="yTicks"
      x-unit="Hz"
      y-unit="dB"
      :tall="240"
      label="Filters and equaliser of every path"
    >
      <path
        v-for="(one, index) in plan.responses"
        :key="one.path"
        class="ink"
        :stroke-dasharray="DASHES[index % DASHES.length]"
        :d="curve(one.level_db, atX, atY)"
      />
    </PaperChart>
    <ul class="key">
      <li v-for="(one, index) in plan.responses" :key="one.path">
        <svg viewBox="0 0 40 10" aria-hidden="true">
          <path class="ink" :stroke-dasharray="DASHES[index % DASHES.length]" d="M0 5H40" />
        </svg>
        {{ one.name }}
      </li>
    </ul>
    <FindingList :findings="plan.findings" />
    <article v-for="one in plan.corners" :key="one.name" class="corner">
      <h3 class="h5 mb-1">{{ one.name }}</h3>
      <p class="mb-1">
        Play {{ one.play }} at volume {{ one.volume }}, note the volts with the filter open.
        <strong class="digits">Then × {{ one.ratio.toFixed(3) }}</strong> ({{
          one.marked_db.toFixed(1).replace('-', '−')
        }}
        dB).
        {{ one.turn }}
      </p>
      <p class="quiet mb-1">{{ one.dial }}</p>
      <TheArithmetic v-if="one.because?.length" :lines="one.because" title="Why so" />
      <CornerCheck :kind="one.kind" :corner-hz="one.frequency_hz" />
    </article>
  </section>
</template>

<style scoped>
.ink {
  fill: none;
  stroke: var(--ink);
  stroke-width: 2.2;
}
.key {
  list-style: none;
  display: flex;
  flex-wrap: wrap;
  gap: 0.2rem 1.5rem;
  padding: 0;
}
.key svg {
  width: 40px;
}
.corner {
  padding: 0.6rem 0;
  border-top: 1px solid var(--line);
}
</style>
