<script setup lang="ts">
import FoldBox from '@/components/FoldBox.vue';
/** Whether a dial can be trusted: the filter's true corner and slope from volts with it in and with it open. */
import { ref } from 'vue';
import { api, Refusal } from '@/api/client';
import QuantityField from '@/components/QuantityField.vue';
import { formatDb, formatValue } from '@/support/quantity';

const props = defineProps<{ kind: 'high' | 'low'; cornerHz: number }>();
type Row = { frequency_hz: number; open_v: number | null; filtered_v: number | null };
const beyond = props.cornerHz * (props.kind === 'high' ? 0.5 : 2);
const rows = ref<Row[]>(
  [props.cornerHz, Math.round(beyond)].map((frequency_hz) => ({
    frequency_hz,
    open_v: null,
    filtered_v: null,
  })),
);
const told = ref('');
const sentence = ref('');

async function ask(): Promise<void> {
  told.value = sentence.value = '';
  const readings = rows.value.flatMap(({ frequency_hz, open_v, filtered_v }) =>
    open_v === null || filtered_v === null ? [] : [{ frequency_hz, open_v, filtered_v }],
  );
  if (!readings.length) {
    sentence.value = 'Type the volts with the filter open and with it in, at one frequency or better at two.';
    return;
  }
  try {
    const found = await api.corner({ kind: props.kind, readings, order: null });
    told.value =
      `Really at ${formatValue(found.corner_hz, 'Hz', 3)}, ${formatDb(found.slope_db_octave, 0)} an octave. ` +
      (found.reasons ?? []).join(' ');
  } catch (problem) {
    if (!(problem instanceof Refusal)) throw problem;
    sentence.value = problem.message;
  }
}
</script>

<template>
  <FoldBox title="Find the real corner">
    <div v-for="(row, index) in rows" :key="index" class="row g-2">
      <QuantityField v-model="row.frequency_hz" class="col-4" label="Tone" kind="hertz" />
      <QuantityField
        v-model="row.open_v"
        :empty="null"
        class="col-4"
        label="Open"
        kind="volts"
        unknown="volts"
      />
      <QuantityField
        v-model="row.filtered_v"
        :empty="null"
        class="col-4"
        label="Filter in"
        kind="volts"
        unknown="volts"
      />
    </div>
    <BButton variant="plain" @click="ask">Calculate</BButton>
    <p class="m-0 mt-2" aria-live="polite">
      <strong v-if="told" class="digits">{{ told }}</strong>
      <span v-else-if="sentence" class="said-clipped">{{ sentence }}</span>
    </p>
  </FoldBox>
</template>
