<script setup lang="ts">
/** Outputs down, ways and tones across; what was not measured is plainly empty. */
import type { SourceView } from '@/api/client';
import { formatDoubt, formatFixed, formatSigned, formatValue } from '@/support/quantity';
import { EVIDENCE } from '@/support/sources';
import { dateInWords } from '@/support/words';

type Matrix = NonNullable<SourceView['report']['matrix']>;
type Shown = NonNullable<Matrix['rows'][number]['cells'][number]>;
defineProps<{ matrix: Matrix; top: number }>();

function about({ cell }: Shown): string {
  const told = [cell.taken_over ? 'copied' : EVIDENCE[cell.basis ?? 'marked']];
  if (cell.taken_on) told.push(dateInWords(cell.taken_on));
  if (cell.by) told.push(cell.by);
  return told.join(', ');
}
</script>

<template>
  <div class="table-responsive" tabindex="0" role="region" aria-label="Clean maxima">
    <table class="table align-middle matrix">
      <thead>
        <tr>
          <th scope="col">Output</th>
          <th scope="col" class="text-end">Stated</th>
          <th v-for="column in matrix.columns" :key="column.words" scope="col">{{ column.words }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in matrix.rows" :key="row.words">
          <th scope="row">{{ row.words }}</th>
          <td class="text-end digits">
            {{ row.stated_v == null ? '–' : formatValue(row.stated_v, 'V', 3) }}
          </td>
          <td v-for="(cell, place) in row.cells" :key="place" class="digits" :class="{ empty: !cell }">
            <template v-if="cell">
              <strong class="volts">{{
                cell.cell.clean_v == null ? 'no volts' : formatValue(cell.cell.clean_v, 'V')
              }}</strong>&nbsp;<span class="quiet">{{ formatDoubt(cell.cell.doubt_v) }}</span>
              <span class="d-block"
                >clean maximum <strong>{{ cell.cell.clean }}</strong> of {{ top
                }}<template v-if="cell.cell.clipped != null"
                  >, clipped at {{ cell.cell.clipped }}</template
                ></span
              >
              <span
                v-if="cell.off_db != null"
                class="d-block"
                :class="cell.off_db < -1 ? 'said-edge' : 'quiet'"
                >{{ formatFixed(100 * (cell.volts_of_stated ?? 0), 0) }} % of what is stated,
                {{ formatSigned(cell.off_db, 1) }} dB</span
              >
              <small class="quiet d-block">{{ about(cell) }}</small>
            </template>
            <template v-else>not measured</template>
          </td>
        </tr>
      </tbody>
    </table>
  </div>
  <p v-if="matrix.settings" class="quiet mb-0">With {{ matrix.settings }}, as the source shows them.</p>
</template>

<style scoped>
.matrix td {
  min-width: 9rem;
}
.matrix td:nth-child(2) {
  min-width: 4rem;
}
.matrix thead th::first-letter {
  text-transform: uppercase;
}
.volts {
  font-size: 1.4rem;
}
.empty {
  color: var(--grey);
  background: repeating-linear-gradient(-45deg, transparent 0 7px, var(--stone) 7px 9px);
}
</style>
