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
      <li v-for="(spread, place) in spreads" :key="place">
        {{ called(spread.cell) }},
        {{ spread.best_at?.length ? `each at its best (${spread.best_at.join('; ')})` : spread.settings }}:
        {{ spread.units }} of {{ units }} units, {{ formatValue(spread.volts, 'V') }},
        {{ formatDb(spread.apart_db) }} apart, clean maximum {{ spread.lowest_clean
        }}<template v-if="spread.highest_clean !== spread.lowest_clean">
          to {{ spread.highest_clean }}</template
        >. The next lies within ± {{ formatDb(spread.next_db) }}.
      </li>
    </ul>
  </section>
</template>
