<script setup lang="ts">
/** Level against frequency: a sweep with the ranges where it clips, or the third octaves of a noise. */
import { computed } from 'vue';
import type { Channel } from '@/api/client';
import PaperChart from '@/components/PaperChart.vue';
import { frequencyTicks, linePath, numberTicks } from '@/support/axes';

const props = defineProps<{ channel: Channel }>();
const sweep = computed(() => props.channel.sweep ?? null);
const points = computed(
  () =>
    sweep.value?.points?.map((point) => ({ hertz: point.frequency_hz, volts: point.v_rms })) ??
    props.channel.spectrum?.bands?.map((band) => ({ hertz: band.nominal_hz, volts: band.v_rms })) ??
    [],
);
const levels = computed(() => points.value.map((point) => 20 * Math.log10(Math.max(point.volts, 1e-6))));
const x = { from: 16, to: 24000, log: true };
const y = computed(() => {
  const top = Math.ceil((Math.max(...levels.value) + 2) / 5) * 5;
  return { from: Math.max(Math.floor((Math.min(...levels.value) - 2) / 5) * 5, top - 60), to: top };
});
const yTicks = computed(() => numberTicks(y.value.from, y.value.to, 6));
const corners = computed(() => {
  const found = sweep.value ?? props.channel.spectrum;
  return [found?.low_corner_hz, found?.high_corner_hz].filter((corner) => corner != null);
});
</script>

<template>
  <PaperChart
    v-slot="{ atX, atY, height }"
    :x="x"
    :y="y"
    :x-ticks="frequencyTicks(x.from, x.to)"
    :y-ticks="yTicks"
    x-unit="Hz"
    y-unit="dBV"
    :label="`Level against frequency of ${channel.name}`"
  >
    <g v-for="range in sweep?.clipped ?? []" :key="range.low_hz">
      <rect
        class="range"
        :x="atX(range.low_hz)"
        :width="atX(range.high_hz) - atX(range.low_hz)"
        y="0"
        :height="height"
      />
      <text class="word" :x="(atX(range.low_hz) + atX(range.high_hz)) / 2" y="16" text-anchor="middle"
        >clips</text
      >
    </g>
    <line
      v-for="corner in corners"
      :key="corner"
      class="corner"
      :x1="atX(corner)"
      :x2="atX(corner)"
      y1="0"
      :y2="height"
    />
    <path
      class="ink"
      :d="
        linePath(points.map((point, index) => [atX(point.hertz), Math.min(height, atY(levels[index] ?? 0))]))
      "
    />
    <template v-if="channel.spectrum">
      <circle
        v-for="(point, index) in points"
        :key="point.hertz"
        :cx="atX(point.hertz)"
        :cy="Math.min(height, atY(levels[index] ?? 0))"
        r="3.5"
      />
    </template>
  </PaperChart>
</template>

<style scoped>
.ink {
  fill: none;
  stroke: var(--ink);
  stroke-width: 2.2;
}
circle {
  fill: var(--ink);
}
.range {
  fill: var(--brick-wash);
}
.corner {
  stroke: var(--grey);
  stroke-dasharray: 5 4;
}
.word {
  fill: var(--brick);
  font-size: 14px;
  font-weight: 650;
}
</style>
