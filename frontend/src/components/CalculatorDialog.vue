<script setup lang="ts">
/** The quick calculator: watts, ohms and volts; decibels and ratios; a corner's volts; a speaker by its resistance. */
import { ref, watch } from 'vue';
import { api, Refusal } from '@/api/client';
import { formatNumber, formatValue } from '@/support/quantity';
import InfoDialog from './InfoDialog.vue';
import QuantityField from './QuantityField.vue';
import SelectField from './SelectField.vue';

const open = defineModel<boolean>({ required: true });
type Mode = 'per_channel' | 'bridged' | 'strapped';
const MODES = [
  { value: 'per_channel' as Mode, text: 'One channel' },
  { value: 'bridged' as Mode, text: 'Bridged' },
  { value: 'strapped' as Mode, text: 'Two strapped' },
];
const DEPTHS = [
  { value: 3.0103, text: '−3 dB (× 0.707)' },
  { value: 4.8, text: '−4.8 dB' },
  { value: 6.0206, text: '−6 dB (× 0.5)' },
];

/** Asks again whenever something of `asked` changes; an older answer never replaces a newer one. */
function useAnswer<T>(asked: () => unknown, ask: () => Promise<T> | undefined) {
  const answer = ref<T>();
  const trouble = ref('');
  let newest = 0;
  watch(
    asked,
    async () => {
      const own = ++newest;
      trouble.value = '';
      try {
        const found = await ask();
        if (own === newest) answer.value = found;
      } catch (problem) {
        if (!(problem instanceof Refusal)) throw problem;
        if (own === newest) trouble.value = problem.message;
      }
    },
    { deep: true },
  );
  return { answer, trouble };
}

/** What was typed of the three, the newest two: the third follows. */
type Third = 'watts' | 'ohms' | 'volts';
const typed = ref<Partial<Record<Third, number | null>>>({});
const order = ref<Third[]>([]);
const mode = ref<Mode>('per_channel');
const FIELDS = [
  { key: 'watts' as const, label: 'Watts', kind: 'watts' as const },
  { key: 'ohms' as const, label: 'Ohms (load)', kind: 'ohms' as const },
  { key: 'volts' as const, label: 'Volts', kind: 'volts' as const },
];
function put(key: Third, value: number | null): void {
  typed.value = { ...typed.value, [key]: value };
  order.value = [...order.value.filter((one) => one !== key), ...(value === null ? [] : [key])];
}
const used = () => order.value.slice(-2);
const { answer: output, trouble: outputTrouble } = useAnswer(
  () => [used(), typed.value, mode.value],
  () => {
    const asked = Object.fromEntries(used().map((key) => [key, typed.value[key]]));
    return used().length === 2 ? api.calculateOutput({ ...asked, mode: mode.value }) : undefined;
  },
);
const RESULTS: Record<Third, 'power_w' | 'load_ohm' | 'voltage_v'> = {
  watts: 'power_w',
  ohms: 'load_ohm',
  volts: 'voltage_v',
};
const shown = (key: Third) =>
  (used().includes(key) ? typed.value[key] : output.value?.[RESULTS[key]]) ?? null;

/** Decibels or a ratio, whichever was typed last: the other follows. */
const level = ref<{ db: number; voltage_ratio: number; power_ratio: number }>();
async function askLevel(asked: { db: number } | { ratio: number } | null): Promise<void> {
  level.value = asked ? await api.calculateLevel(asked) : undefined;
}
const openVolts = ref<number | null>(null);
const depth = ref(3.0103);
const { answer: corner } = useAnswer(
  () => [openVolts.value, depth.value],
  () =>
    openVolts.value ? api.calculateCorner({ volts: openVolts.value, depth_db: depth.value }) : undefined,
);
const resistance = ref<number | null>(null);
const { answer: speaker } = useAnswer(
  () => resistance.value,
  () => (resistance.value === null ? undefined : api.calculateImpedance({ ohms: resistance.value })),
);
</script>

<template>
  <InfoDialog v-model="open" title="Calculator" large focus=".watts input">
    <section aria-label="Watts, ohms and volts">
      <h3 class="h6">Watts, ohms and volts</h3>
      <p class="quiet mb-1">Type two. The third follows.</p>
      <div class="fields watts">
        <QuantityField
          v-for="one in FIELDS"
          :key="one.key"
          :model-value="shown(one.key)"
          :empty="null"
          unknown=""
          :label="one.label"
          :kind="one.kind"
          @update:model-value="(value) => put(one.key, value)"
        />
        <SelectField v-model="mode" label="Mode" :options="MODES" />
      </div>
      <p v-if="outputTrouble" class="said-clipped" role="alert">{{ outputTrouble }}</p>
      <p v-else-if="output" class="answer" role="status">
        Measure <strong class="digits">{{ formatValue(output.measured_v, 'V') }}</strong>.
        <span class="quiet">{{ output.because.join('; ') }}.</span>
      </p>
    </section>
    <section aria-label="Decibels and ratios">
      <h3 class="h6 mt-2">Decibels and ratios</h3>
      <div class="fields">
        <QuantityField
          :model-value="level?.db ?? null"
          :empty="null"
          unknown=""
          label="Decibels"
          kind="decibels"
          @update:model-value="(db) => askLevel(db === null ? null : { db })"
        />
        <QuantityField
          :model-value="level?.voltage_ratio ?? null"
          :empty="null"
          unknown=""
          label="Ratio of volts"
          kind="ratio"
          @update:model-value="(ratio) => askLevel(ratio === null ? null : { ratio })"
        />
      </div>
      <p v-if="level" class="answer" role="status">
        Watts × <strong class="digits">{{ formatNumber(level.power_ratio) }}</strong>
      </p>
    </section>
    <section aria-label="Volts at a corner">
      <h3 class="h6 mt-2">Volts at a corner</h3>
      <div class="fields">
        <QuantityField v-model="openVolts" :empty="null" unknown="" label="Volts, filter open" kind="volts" />
        <SelectField v-model="depth" label="Depth" :options="DEPTHS" />
      </div>
      <p v-if="corner" class="answer" role="status">
        Turn the filter to <strong class="digits">{{ formatValue(corner.voltage_v, 'V') }}</strong>.
      </p>
    </section>
    <section aria-label="Speaker by its resistance">
      <h3 class="h6 mt-2">Speaker by its resistance</h3>
      <div class="fields">
        <QuantityField v-model="resistance" :empty="null" unknown="" label="Meter reads" kind="ohms" />
      </div>
      <p v-if="speaker" class="answer" role="status">{{ speaker.sentence }}</p>
    </section>
  </InfoDialog>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(8rem, 1fr));
  gap: 0 0.8rem;
}
.answer {
  font-size: 1.2rem;
  margin-bottom: 0.3rem;
}
</style>
