<script setup lang="ts">
/** Volume steps: volts against volume number, the line that a source without a clean maximum would follow, and the bend. */
import { computed } from 'vue';
import type { VolumeStepsView } from '@/api/client';
import { linePath, numberTicks } from '@/support/axes';
import PaperChart from './PaperChart.vue';

const props = defineProps<{ view: VolumeStepsView; tall?: number }>();
const points = computed(() => props.view.points ?? []);
const last = computed(() => props.view.report.clean_volume ?? null);
const x = computed(() => ({
  from: Math.min(...points.value.map((point) => point.volume)) - 0.6,
  to: Math.max(...points.value.map((point) => point.volume)) + 0.6,
}));
const y = computed(() => {
  const every = points.value.flatMap((point) => [point.voltage_v, point.curve_v ?? point.voltage_v]);
  const highest = Math.max(...every, ...points.value.map((point) => point.line_v ?? 0));
  return { from: Math.min(...every) / 1.1, to: Math.min(highest, 2 * Math.max(...every)) * 1.1, log: true };
});
const xTicks = computed(() =>
  numberTicks(x.value.from, x.value.to, 8).filter(({ at }) => Number.isInteger(at)),
);
const yTicks = computed(() => numberTicks(y.value.from, y.value.to, 5).filter(({ at }) => at > 0));
type At = (value: number) => number;
function through(name: 'line_v' | 'curve_v', atX: At, atY: At): string {
  return linePath(
    points.value.map((point) => {
      const volts = point[name];
      return volts == null || volts > y.value.to ? null : [atX(point.volume), atY(volts)];
    }),
  );
}
</script>

<template>
  <PaperChart
    v-slot="{ atX, atY, height }"
    :x="x"
    :y="y"
    :x-ticks="xTicks"
    :y-ticks="yTicks"
    :tall="tall"
    x-unit="volume"
    y-unit="V"
    label="Volts at each volume number"
  >
    <line v-if="last !== null" class="last" :x1="atX(last)" :x2="atX(last)" y1="0" :y2="height" />
    <path class="line" :d="through('line_v', atX, atY)" />
    <path class="curve" :d="through('curve_v', atX, atY)" />
    <circle
      v-for="point in points"
      :key="point.volume"
      :cx="atX(point.volume)"
      :cy="atY(point.voltage_v)"
      r="4.5"
    />
    <text v-if="last !== null" class="word" :x="atX(last) - 6" y="14" text-anchor="end"
      >{{ last }}, last clean</text
    >
  </PaperChart>
</template>

<style scoped>
path {
  fill: none;
}
.line {
  stroke: var(--grey);
  stroke-width: 1.4;
  stroke-dasharray: 6 4;
}
.curve {
  stroke: var(--brick);
  stroke-width: 1.4;
}
.last {
  stroke: var(--clean);
  stroke-width: 2;
}
circle {
  fill: var(--ink);
}
.word {
  fill: var(--clean);
  font-size: 14px;
  font-weight: 650;
  paint-order: stroke;
  stroke: var(--sheet);
  stroke-width: 5px;
}
</style>
