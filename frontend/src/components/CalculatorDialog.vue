<script setup lang="ts">
/** The quick calculator: watts, ohms and volts; decibels and ratios; a corner's volts; a speaker by its resistance. */
import { ref } from 'vue';
import { api } from '@/api/client';
import { useAnswer } from '@/composables/useAnswer';
import { formatNumber, formatValue } from '@/support/quantity';
import CalculatorPart from './CalculatorPart.vue';
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
  order.value = [...order.value.filter((typed) => typed !== key), ...(value === null ? [] : [key])];
}
const used = () => order.value.slice(-2);
const { answer: output, trouble: outputTrouble } = useAnswer(
  () => [used(), typed.value, mode.value],
  () => {
    const asked = Object.fromEntries(used().map((key) => [key, typed.value[key]]));
    return used().length === 2 ? api.calculateOutput({ ...asked, mode: mode.value }) : undefined;
  },
);
/** Calculated figures get four digits: the typed ones have no more. */
const rounded = (value: number | undefined) => (value === undefined ? null : Number(value.toPrecision(4)));
const RESULTS: Record<Third, 'power_w' | 'load_ohm' | 'voltage_v'> = {
  watts: 'power_w',
  ohms: 'load_ohm',
  volts: 'voltage_v',
};
const shown = (key: Third) =>
  used().includes(key) ? (typed.value[key] ?? null) : rounded(output.value?.[RESULTS[key]]);

/** Decibels or a ratio, whichever was typed last: the other follows. */
const asked = ref<{ db: number } | { ratio: number }>();
const { answer: level, trouble: levelTrouble } = useAnswer(
  () => asked.value,
  () => asked.value && api.calculateLevel(asked.value),
);
const openVolts = ref<number | null>(null);
const depth = ref(3.0103);
const { answer: corner, trouble: cornerTrouble } = useAnswer(
  () => [openVolts.value, depth.value],
  () =>
    openVolts.value === null
      ? undefined
      : api.calculateCorner({ volts: openVolts.value, depth_db: depth.value }),
);
const resistance = ref<number | null>(null);
const { answer: speaker, trouble: speakerTrouble } = useAnswer(
  () => resistance.value,
  () => (resistance.value === null ? undefined : api.calculateImpedance({ ohms: resistance.value })),
);
</script>

<template>
  <InfoDialog v-model="open" title="Calculator" large focus=".watts input">
    <CalculatorPart title="Watts, ohms and volts" :trouble="outputTrouble" class="watts">
      <template #hint><p class="quiet mb-1">Type two. The third follows.</p></template>
      <QuantityField
        v-for="field in FIELDS"
        :key="field.key"
        :model-value="shown(field.key)"
        :empty="null"
        unknown=""
        :label="field.label"
        :kind="field.kind"
        @update:model-value="(value) => put(field.key, value)"
      />
      <SelectField v-model="mode" label="Mode" :options="MODES" />
      <template v-if="output" #answer>
        Measure <strong class="digits">{{ formatValue(output.measured_v, 'V') }}</strong>.
        <span class="quiet">{{ output.because.join('; ') }}.</span>
      </template>
    </CalculatorPart>
    <CalculatorPart title="Decibels and ratios" :trouble="levelTrouble">
      <QuantityField
        :model-value="asked && 'db' in asked ? asked.db : rounded(level?.db)"
        :empty="null"
        unknown=""
        label="Decibels"
        kind="decibels"
        @update:model-value="(db) => (asked = db === null ? undefined : { db })"
      />
      <QuantityField
        :model-value="asked && 'ratio' in asked ? asked.ratio : rounded(level?.voltage_ratio)"
        :empty="null"
        unknown=""
        label="Ratio of volts"
        kind="ratio"
        @update:model-value="(ratio) => (asked = ratio === null ? undefined : { ratio })"
      />
      <template v-if="level" #answer>
        Watts × <strong class="digits">{{ formatNumber(level.power_ratio) }}</strong>
      </template>
    </CalculatorPart>
    <CalculatorPart title="Volts at a corner" :trouble="cornerTrouble">
      <QuantityField v-model="openVolts" :empty="null" unknown="" label="Volts, filter open" kind="volts" />
      <SelectField v-model="depth" label="Depth" :options="DEPTHS" />
      <template v-if="corner" #answer>
        Turn the filter to <strong class="digits">{{ formatValue(corner.voltage_v, 'V') }}</strong>.
      </template>
    </CalculatorPart>
    <CalculatorPart title="Speaker by its resistance" :trouble="speakerTrouble">
      <QuantityField v-model="resistance" :empty="null" unknown="" label="Meter reads" kind="ohms" />
      <template v-if="speaker" #answer>{{ speaker.sentence }}</template>
    </CalculatorPart>
  </InfoDialog>
</template>
