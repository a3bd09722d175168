<script setup lang="ts">
import { computed } from 'vue';
import type { Verdict } from '@/api/client';
import { VERDICT_WORDS } from '@/support/words';

const props = defineProps<{
  verdict: Verdict | 'unseen';
  /** The mark alone, where the word stands beside it already. */
  bare?: boolean;
}>();
const ARCS: Partial<Record<Verdict | 'unseen', string>> = {
  clipped: 'M3 18C6 9 8.5 6.2 10 6.2H18C19.5 6.2 22 9 25 18',
  square: 'M3 18V6.2H25V18',
  distorted: 'M3 18C4 6 9 12 14 7C19 2 24 6 25 18',
};
const ARC = 'M3 18C8 1 20 1 25 18';
const told = computed(() => ['clean', 'edge', 'clipped', 'square', 'distorted'].includes(props.verdict));
const tone = computed(() => {
  if (props.verdict === 'square' || props.verdict === 'clipped') return 'clipped';
  if (props.verdict === 'clean') return 'clean';
  return told.value ? 'edge' : 'unseen';
});
</script>

<template>
  <span class="verdict" :class="`said-${tone}`">
    <svg viewBox="0 0 28 20" aria-hidden="true">
      <path :d="ARCS[verdict] ?? ARC" />
      <path v-if="verdict === 'edge'" class="line" d="M3 4.6H25" />
      <path v-if="tone === 'clipped'" class="line" d="M1 6.2H27" />
      <text v-if="!told" x="14" y="18">?</text>
    </svg>
    <template v-if="!bare">{{ VERDICT_WORDS[verdict] }}</template>
  </span>
</template>

<style scoped>
.verdict {
  display: inline-flex;
  align-items: center;
  gap: 0.35em;
  font-weight: 600;
}
.said-unseen {
  color: var(--grey);
}
svg {
  width: 1.9em;
  fill: none;
  stroke: currentColor;
  stroke-width: 2.4;
}
.line {
  stroke-width: 1.6;
}
text {
  font-size: 13px;
  stroke: none;
  fill: currentColor;
  text-anchor: middle;
  font-weight: 700;
}
</style>
