<script setup lang="ts">
import { computed } from 'vue';
import type { Step } from '@/api/client';

const props = defineProps<{ target: NonNullable<Step['target']>; value: number | null }>();
const WIDTH = 600;
/** The line runs from zero volts to a little past the target; the scale is the meter's own, volts. */
const end = computed(() => props.target.value * 1.25);
const at = (volts: number) => Math.min(WIDTH, Math.max(0, (volts / end.value) * WIDTH));
</script>

<template>
  <svg :viewBox="`-8 0 ${WIDTH + 16} 40`" aria-hidden="true">
    <line x1="0" :x2="WIDTH" y1="24" y2="24" />
    <rect
      :x="at(target.limits.low)"
      y="12"
      :width="at(target.limits.high) - at(target.limits.low)"
      height="24"
    />
    <path
      v-if="value !== null"
      :d="`M${at(value)} 22 l-9 -18 h18 z`"
      :class="{ over: value > target.limits.high }"
    />
  </svg>
</template>

<style scoped>
svg {
  display: block;
  width: 100%;
}
line {
  stroke: var(--grey);
  stroke-width: 3;
}
rect {
  fill: var(--clean);
}
path {
  fill: var(--ink);
}
path.over {
  fill: var(--brick);
}
</style>
