<script setup lang="ts">
import { formatFixed } from '@/support/quantity';
import { computed } from 'vue';
import type { Channel } from '@/api/client';

const props = defineProps<{ harmonics: NonNullable<Channel['harmonics']> }>();
const most = computed(() => Math.max(1, ...props.harmonics.map((harmonic) => harmonic.percent)));
</script>

<template>
  <table class="digits" aria-label="Harmonics in percent of the tone">
    <tbody>
      <tr v-for="harmonic in harmonics.slice(0, 8)" :key="harmonic.number">
        <th scope="row">{{ harmonic.number }}</th>
        <td class="bar"><span :style="{ width: `${(100 * harmonic.percent) / most}%` }" /></td>
        <td>{{ formatFixed(harmonic.percent, 2) }} %</td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
table {
  width: 100%;
}
th,
td {
  padding: 0.05rem 0.4rem;
  white-space: nowrap;
}
td:last-child {
  text-align: right;
}
.bar {
  width: 100%;
}
.bar span {
  display: block;
  height: 0.7em;
  background: var(--ink);
}
</style>
