<script setup lang="ts">
import { computed } from 'vue';
import { useConnection } from '@/composables/useConnection';

const { connection } = useConnection();
const well = computed(() => connection.value.is === 'ok');
const words = computed(() => connection.value.words);
</script>

<template>
  <span class="connection" :class="well ? 'ok' : 'lost'" :title="words" role="status">
    <svg viewBox="0 0 20 20" aria-hidden="true">
      <path v-if="well" d="M3 10h14" />
      <path v-else d="M3 10h4M13 10h4M8 5l4 10" />
    </svg>
    <span :class="{ 'only-large': well }"
      >{{ words }}<span v-if="!well" class="visually-hidden">: kept on this device</span></span
    >
  </span>
</template>

<style scoped>
.connection {
  display: inline-flex;
  align-items: center;
  gap: 0.3rem;
  font-size: 0.9rem;
  font-weight: 600;
  white-space: nowrap;
}
/* Where there is no room the line alone says it to the eye, and the word to the ear. */
@media (width < 380px), (600px <= width <= 1100px) {
  .only-large {
    position: absolute;
    width: 1px;
    height: 1px;
    clip-path: inset(50%);
    overflow: hidden;
  }
}
.connection svg {
  width: 22px;
  fill: none;
  stroke: currentColor;
  stroke-width: 3;
  stroke-linecap: round;
}
.ok {
  color: var(--clean);
}
.lost {
  color: var(--brick);
}
</style>
