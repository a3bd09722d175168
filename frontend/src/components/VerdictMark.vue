<script setup lang="ts">
defineProps<{ verdict: 'clean' | 'edge' | 'clipped' | 'unseen' }>();
const WORDS = { clean: 'clean', edge: 'at the edge', clipped: 'clipped', unseen: 'not seen' };
</script>

<template>
  <span class="verdict" :class="`said-${verdict}`">
    <svg viewBox="0 0 28 20" aria-hidden="true">
      <path v-if="verdict === 'clipped'" d="M3 18C6 9 8.5 6.2 10 6.2H18C19.5 6.2 22 9 25 18" />
      <path v-else d="M3 18C8 1 20 1 25 18" />
      <path v-if="verdict === 'edge'" class="line" d="M3 4.6H25" />
      <path v-if="verdict === 'clipped'" class="line" d="M3 6.2H25" />
      <text v-if="verdict === 'unseen'" x="14" y="18">?</text>
    </svg>
    {{ WORDS[verdict] }}
  </span>
</template>

<style scoped>
.verdict {
  display: inline-flex;
  align-items: center;
  gap: 0.35rem;
  font-weight: 600;
}
.said-unseen {
  color: var(--grey);
}
svg {
  width: 30px;
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
