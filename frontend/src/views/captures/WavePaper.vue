<script setup lang="ts">
/** The wave in ink, the clean sine behind it as a thin line, and what was cut off filled in. */
import { computed } from 'vue';
import type { Channel } from '@/api/client';
import PaperChart from '@/components/PaperChart.vue';
import { linePath, numberTicks } from '@/support/axes';

type Drawing = Channel['drawing'];
const props = defineProps<{ drawing: Drawing; over?: Drawing | null; name: string }>();

const span = computed(() => Math.max(props.drawing.milliseconds.at(-1) ?? 1, 1e-6));
const reach = computed(() => {
  const every = [...props.drawing.volts, ...(props.drawing.sine ?? []), ...(props.over?.volts ?? [])];
  const low = Math.min(...every);
  const high = Math.max(...every);
  const margin = Math.max(0.06 * (high - low), 1e-6);
  return { from: low - margin, to: high + margin };
});
const xTicks = computed(() => numberTicks(0, span.value, 5).slice(0, -1));
const yTicks = computed(() => numberTicks(reach.value.from, reach.value.to, 6));

type At = (value: number) => number;
function path(drawing: Drawing, values: number[], atX: At, atY: At): string {
  return linePath(
    values.map((value, index) => {
      const time = drawing.milliseconds[index] ?? 0;
      return time <= span.value ? [atX(time), atY(value)] : null;
    }),
  );
}

/** The area between the sine and the flat it would have passed. */
function lost(atX: At, atY: At, flat: number, above: boolean): string {
  const { sine = [], milliseconds } = props.drawing;
  const parts: string[] = [];
  let open: [number, number][] = [];
  const close = () => {
    const [first, last] = [open.at(0), open.at(-1)];
    if (first && last && open.length > 1)
      parts.push(`${linePath([[first[0], atY(flat)], ...open, [last[0], atY(flat)]])}Z`);
    open = [];
  };
  sine.forEach((value, index) => {
    if (above ? value > flat : value < flat) open.push([atX(milliseconds[index] ?? 0), atY(value)]);
    else close();
  });
  close();
  return parts.join('');
}
</script>

<template>
  <PaperChart
    v-slot="{ atX, atY }"
    :x="{ from: 0, to: span }"
    :y="reach"
    :x-ticks="xTicks"
    :y-ticks="yTicks"
    x-unit="ms"
    y-unit="V"
    :label="`The wave of ${name}`"
  >
    <template v-if="drawing.ceiling_v != null && drawing.floor_v != null && drawing.sine?.length">
      <path class="lost" :d="lost(atX, atY, drawing.ceiling_v, true)" />
      <path class="lost" :d="lost(atX, atY, drawing.floor_v, false)" />
      <path class="sine" :d="path(drawing, drawing.sine, atX, atY)" />
    </template>
    <path v-if="over" class="other" :d="path(over, over.volts, atX, atY)" />
    <path class="ink" :d="path(drawing, drawing.volts, atX, atY)" />
  </PaperChart>
</template>

<style scoped>
path {
  fill: none;
}
.ink {
  stroke: var(--ink);
  stroke-width: 2.2;
  stroke-linejoin: round;
}
.sine {
  stroke: var(--brick);
  stroke-width: 1.2;
}
.lost {
  fill: var(--brick-wash);
  stroke: none;
}
.other {
  stroke: var(--ochre);
  stroke-width: 1.8;
  stroke-dasharray: 7 4;
}
</style>
