<script setup lang="ts">
/** Values that differ, one above the other. */
import { computed, ref } from 'vue';
import type { Change } from '@/api/client';
import { valueInWords } from '@/support/words';

const FIRST = 8;
const props = defineProps<{ changes: readonly Change[]; was: string; now: string }>();
const all = ref(false);
const rows = computed(() => (all.value ? props.changes : props.changes.slice(0, FIRST)));
</script>

<template>
  <table class="table mb-2">
    <thead>
      <tr>
        <th scope="col">Value</th>
        <th scope="col">{{ was }}</th>
        <th scope="col">{{ now }}</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="row in rows" :key="row.place">
        <th scope="row">{{ row.label || row.place }}</th>
        <td>{{ valueInWords(row.was) }}</td>
        <td>{{ valueInWords(row.now) }}</td>
      </tr>
    </tbody>
  </table>
  <BButton v-if="rows.length < changes.length" variant="plain" @click="all = true">
    Show all {{ changes.length }}
  </BButton>
</template>

<style scoped>
td,
th {
  overflow-wrap: anywhere;
}
</style>
