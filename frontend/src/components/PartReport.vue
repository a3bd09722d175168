<script setup lang="ts">
/** Stated against measured: a line for each figure of a part, over every unit that was measured. */
import type { PartRow } from '@/api/client';

defineProps<{ rows: readonly PartRow[] }>();

const NAMES: Record<PartRow['kind'], string> = {
  open_watts: 'Clean watts, reckoned from open terminals',
  loaded_watts: 'Clean watts, load resistors on every channel',
  gain_scale: 'Volts for full output',
  dial: 'Corner',
};
</script>

<template>
  <ul class="rows">
    <li v-for="row in rows" :key="`${row.kind} ${row.at} ${row.stated}`">
      <span class="quiet">{{ NAMES[row.kind] }}, {{ row.at }}</span>
      <strong class="digits">{{ row.sentence }}</strong>
      <span v-if="row.count > 1" class="quiet">{{ row.count }} units</span>
    </li>
  </ul>
</template>

<style scoped>
.rows {
  display: grid;
  gap: 0.5rem;
  margin: 0;
  padding: 0;
  list-style: none;
}
.rows li {
  display: grid;
}
</style>
