<script setup lang="ts">
/** The level at every point of a path, with its clean maximum: while the gain is set, and at full scale. */
import { useMediaQuery } from '@vueuse/core';
import { computed } from 'vue';
import type { StageLevel } from '@/api/client';
import { formatFixed, formatNumber } from '@/support/quantity';

const props = defineProps<{ stageLevels: readonly StageLevel[]; overlapDb: number }>();
/** With a tone at full scale both are the same. */
const apart = computed(() => props.overlapDb > 0.05);
/** On a phone the volts are left to the drawing. */
const volts = useMediaQuery('(min-width: 576px)');
const db = (value: number) => formatFixed(value, 1);
const rows = computed(() => [...props.stageLevels].reverse());
</script>

<template>
  <div class="scroll" tabindex="0" role="region" aria-label="Levels at every point">
    <table class="table digits mb-0">
      <thead>
        <tr v-if="apart">
          <td></td>
          <th :colspan="volts ? 2 : 1" scope="colgroup">While setting</th>
          <th :colspan="volts ? 2 : 1" scope="colgroup">At full scale</th>
          <td></td>
          <td></td>
        </tr>
        <tr>
          <th scope="col">After</th>
          <th v-if="volts" scope="col">V</th>
          <th scope="col">dBV</th>
          <template v-if="apart">
            <th v-if="volts" scope="col">V</th>
            <th scope="col">dBV</th>
          </template>
          <th scope="col">Clean maximum, dBV</th>
          <th scope="col">Headroom, dB</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(row, index) in rows" :key="index" :class="{ limiting: row.limiting }">
          <th scope="row">{{ row.name }}<span v-if="row.limiting" class="said-edge"> · limits</span></th>
          <td v-if="volts">{{ formatNumber(row.level_v, 3) }}</td>
          <td>{{ db(row.level_dbv) }}</td>
          <template v-if="apart">
            <td v-if="volts">{{ formatNumber(row.full_v, 3) }}</td>
            <td>{{ db(row.full_dbv) }}</td>
          </template>
          <td>{{ db(row.clean_maximum_dbv) }}</td>
          <td :class="{ 'said-clipped': row.full_headroom_db < -0.05 }">
            {{ db(row.headroom_db) }}<template v-if="apart"> · {{ db(row.full_headroom_db) }}</template>
          </td>
        </tr>
      </tbody>
    </table>
  </div>
  <p v-if="apart" class="quiet mb-0 mt-1">
    {{ db(overlapDb) }} dB of overlap. The right-hand figure is the headroom at full scale; below zero it
    clips.
  </p>
</template>

<style scoped lang="scss">
@use '@/styles/breakpoints' as at;

.scroll {
  overflow-x: auto;
}
td,
thead th {
  text-align: right;
}
td {
  white-space: nowrap;
}
@include at.phone {
  td,
  th {
    padding-inline: 0.3rem;
  }
}
tbody th,
thead th:first-child {
  text-align: left;
}
</style>
