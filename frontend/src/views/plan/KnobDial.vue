<script setup lang="ts">
import { computed } from 'vue';
import type { PathPlan } from '@/api/client';

const props = defineProps<{ knob: PathPlan['knob'] }>();
// Fully down at 7 o’clock, fully up at 5 o’clock: 300 degrees of travel.
const angle = computed(() => -150 + 300 * (props.knob.travel ?? 0));
</script>

<template>
  <svg
    v-if="knob.travel !== null && knob.travel !== undefined"
    viewBox="0 0 120 84"
    role="img"
    :aria-label="`Expected ${Math.round(knob.travel * 100)} % of the way up from fully down`"
  >
    <path class="scale" d="M43 71.4 A34 34 0 1 1 77 71.4" />
    <text x="38" y="82" text-anchor="end">down</text>
    <text x="82" y="82">up</text>
    <path class="hand" d="M60 42 L60 12" :transform="`rotate(${angle} 60 42)`" />
    <circle cx="60" cy="42" r="4" />
  </svg>
</template>

<style scoped>
svg {
  width: 150px;
  display: block;
}
.scale {
  fill: none;
  stroke: var(--grey);
  stroke-width: 3;
}
.hand {
  stroke: var(--ink);
  stroke-width: 4;
  stroke-linecap: round;
}
circle {
  fill: var(--ink);
}
text {
  font-size: 11px;
  fill: var(--grey);
}
</style>
