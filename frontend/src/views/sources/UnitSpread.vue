<script setup lang="ts">
/** How far the measured units of a source differ: at equal settings, or best against best. */
import type { Cell, Spread } from '@/api/client';
import { formatDb, formatValue } from '@/support/quantity';

defineProps<{
  spreads: readonly Spread[];
  /** Units that were measured. */
  units: number;
  /** Place of a cell and its settings, in words. */
  called: (cell: Cell) => string;
}>();
</script>

<template>
  <section>
    <h2 class="h5 mt-3">How units differ</h2>
    <ul class="digits">
      <li v-for="(one, place) in spreads" :key="place">
        {{ called(one.cell) }},
        {{ one.best_at?.length ? `each at its best (${one.best_at.join('; ')})` : one.settings }}:
        {{ one.units }} of {{ units }} units, {{ formatValue(one.volts, 'V') }},
        {{ formatDb(one.apart_db) }} apart, clean maximum {{ one.lowest_clean
        }}<template v-if="one.highest_clean !== one.lowest_clean"> to {{ one.highest_clean }}</template
        >. The next lies within ± {{ formatDb(one.next_db) }}.
      </li>
    </ul>
  </section>
</template>
