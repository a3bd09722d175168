<script setup lang="ts">
import { computed } from 'vue';
import { useLeastLetters } from '@/composables/useLeastLetters';
import { formatNumber } from '@/support/quantity';
import { wavePath } from '@/support/wave';

const props = defineProps<{ milliseconds: number[]; volts: number[]; fullV: number }>();
const WIDTH = 300;
const HEIGHT = 70;
const path = computed(() => wavePath(props.milliseconds, props.volts, props.fullV, WIDTH, HEIGHT));
const letters = useLeastLetters(() => WIDTH + 42);
const span = computed(() => props.milliseconds.at(-1) ?? 0);
</script>

<template>
  <figure class="m-0">
    <svg
      ref="drawing"
      :style="letters"
      :viewBox="`-34 -6 ${WIDTH + 42} ${HEIGHT + 26}`"
      role="img"
      aria-label="The wave at the probe"
    >
      <line class="axis" x1="0" :x2="WIDTH" :y1="HEIGHT / 2" :y2="HEIGHT / 2" />
      <line class="axis" x1="0" x2="0" y1="0" :y2="HEIGHT" />
      <path class="ink" :d="path" />
      <text x="-5" y="9" text-anchor="end">{{ formatNumber(fullV) }} V</text>
      <text x="-5" :y="HEIGHT / 2 + 4" text-anchor="end">0</text>
      <text x="-5" :y="HEIGHT" text-anchor="end">−{{ formatNumber(fullV) }}</text>
      <text :x="WIDTH" :y="HEIGHT + 15" text-anchor="end">{{ formatNumber(span, 2) }} ms</text>
    </svg>
  </figure>
</template>

<style scoped>
svg {
  width: 100%;
  background: var(--sheet);
  border: 1px solid var(--line);
}
.axis {
  stroke: var(--grey);
  stroke-width: 0.8;
}
.ink {
  fill: none;
  stroke: var(--ink);
  stroke-width: 2;
  stroke-linejoin: round;
}
text {
  fill: var(--grey);
  font-size: max(11px, var(--least));
}
</style>
