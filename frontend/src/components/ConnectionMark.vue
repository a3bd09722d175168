<script setup lang="ts">
import { computed } from 'vue';
import { useConnection } from '@/composables/useConnection';

const WORDS = {
  ok: 'Connected',
  lost: 'No connection: kept on this device',
  database: 'Database away: kept on this device',
};
const connection = useConnection();
const words = computed(() => WORDS[connection.value]);
</script>

<template>
  <span class="connection" :class="connection" role="status">
    <svg viewBox="0 0 20 20" aria-hidden="true">
      <path v-if="connection === 'ok'" d="M3 10h14" />
      <path v-else d="M3 10h4M13 10h4M8 5l4 10" />
    </svg>
    <span :class="{ 'visually-hidden': connection === 'ok' }">{{ words }}</span>
  </span>
</template>

<style scoped>
.connection {
  display: inline-flex;
  align-items: center;
  gap: 0.3rem;
  font-size: 0.9rem;
  font-weight: 600;
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
.lost,
.database {
  color: var(--brick);
}
</style>
