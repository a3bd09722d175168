<script setup lang="ts">
/** Levels over frequency on one paper, each dashed in its own way, and in full ink their sum or the wanted curve. */
import { computed } from 'vue';
import PaperChart from '@/components/PaperChart.vue';
import { frequencyTicks, linePath, numberTicks } from '@/support/axes';

const props = defineProps<{
  label: string;
  hertz: readonly number[];
  lines: readonly { name: string; dash: string; levels: readonly (number | null)[] }[];
  sum?: readonly number[];
  /** Name of the line in full ink. */
  sumName?: string;
}>();
const LOWEST = -36;
const x = { from: 20, to: 20000, log: true };
const top = computed(
  () =>
    Math.max(
      6,
      ...props.lines.flatMap((line) => line.levels.map((level) => level ?? LOWEST)),
      ...(props.sum ?? []),
    ) + 3,
);
const y = computed(() => ({ from: LOWEST, to: top.value }));
type At = (value: number) => number;
const curve = (levels: readonly (number | null)[], atX: At, atY: At) =>
  linePath(
    levels.map((level, index) =>
      level === null || level < LOWEST ? null : [atX(props.hertz[index] ?? 20), atY(level)],
    ),
  );
</script>

<template>
  <PaperChart
    v-slot="{ atX, atY }"
    :x="x"
    :y="y"
    :x-ticks="frequencyTicks(20, 20000)"
    :y-ticks="numberTicks(LOWEST, top, 6)"
    x-unit="Hz"
    y-unit="dB"
    :tall="240"
    :label="label"
  >
    <path
      v-for="line in lines"
      :key="line.name"
      class="ink"
      :stroke-dasharray="line.dash"
      :d="curve(line.levels, atX, atY)"
    />
    <path v-if="sum" class="ink sum" :d="curve(sum, atX, atY)" />
  </PaperChart>
  <ul class="key">
    <li v-for="line in lines" :key="line.name">
      <svg viewBox="0 0 40 10" aria-hidden="true">
        <path class="ink" :stroke-dasharray="line.dash" d="M0 5H40" />
      </svg>
      {{ line.name }}
    </li>
    <li v-if="sum">
      <svg viewBox="0 0 40 10" aria-hidden="true"><path class="ink sum" d="M0 5H40" /></svg>
      {{ sumName ?? 'all together' }}
    </li>
  </ul>
</template>

<style scoped>
.ink {
  fill: none;
  stroke: var(--ink);
  stroke-width: 2;
}
.sum {
  stroke: var(--clean);
  stroke-width: 4;
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
</style>
