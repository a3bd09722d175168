<script setup lang="ts">
/** Axes on paper, as wide as there is room, so that letters keep their size on a phone. */
import { useElementSize } from '@vueuse/core';
import { computed, ref } from 'vue';
import { type Axis, place, spaced, type Tick } from '@/support/axes';

const props = defineProps<{
  x: Axis;
  y: Axis;
  xTicks: Tick[];
  yTicks: Tick[];
  label: string;
  /** What the axes are in, written at their ends. */
  xUnit: string;
  yUnit: string;
  tall?: number;
}>();
const frame = ref<HTMLElement | null>(null);
const { width } = useElementSize(frame);
const LEFT = 58;
const inner = computed(() => Math.max(120, (width.value || 600) - LEFT - 14));
const height = computed(() => props.tall ?? 300);
const atX = (value: number) => place(props.x, inner.value, value);
/** The unit stands where the last ticks would. */
const xLetters = computed(() =>
  spaced(
    props.xTicks.filter((tick) => atX(tick.at) < inner.value - 9 * props.xUnit.length - 6),
    atX,
  ),
);
const atY = (value: number) => height.value - place(props.y, height.value, value);
</script>

<template>
  <figure ref="frame" class="m-0 paper">
    <svg :viewBox="`${-LEFT} -28 ${inner + LEFT + 14} ${height + 56}`" role="img" :aria-label="label">
      <g class="rules">
        <line
          v-for="tick in yTicks"
          :key="tick.at"
          x1="0"
          :x2="inner"
          :y1="atY(tick.at)"
          :y2="atY(tick.at)"
        />
        <line
          v-for="tick in xTicks"
          :key="tick.at"
          :x1="atX(tick.at)"
          :x2="atX(tick.at)"
          y1="0"
          :y2="height"
        />
      </g>
      <slot :at-x="atX" :at-y="atY" :width="inner" :height="height" />
      <g class="letters">
        <text v-for="tick in yTicks" :key="tick.at" x="-8" :y="atY(tick.at) + 4" text-anchor="end">
          {{ tick.text }}
        </text>
        <text v-for="tick in xLetters" :key="tick.at" :x="atX(tick.at)" :y="height + 19" text-anchor="middle">
          {{ tick.text }}
        </text>
        <text class="unit" x="-8" y="-13" text-anchor="end">{{ yUnit }}</text>
        <text class="unit" :x="inner + 12" :y="height + 19" text-anchor="end">{{ xUnit }}</text>
      </g>
    </svg>
  </figure>
</template>

<style scoped>
svg {
  display: block;
  width: 100%;
  background: var(--sheet);
}
.rules line {
  stroke: var(--line);
  stroke-width: 1;
}
.letters text {
  fill: var(--grey);
  font-size: 13px;
  font-variant-numeric: tabular-nums;
}
.letters .unit {
  font-weight: 650;
}
</style>
