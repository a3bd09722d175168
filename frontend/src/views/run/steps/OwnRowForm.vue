<script setup lang="ts">
/** Another setting to compare: its value as the source shows it, at any output, by any way, with either tone. */
import { computed, ref } from 'vue';
import type { OwnRows, Row } from '@/api/client';
import FoldBox from '@/components/FoldBox.vue';
import SelectField from '@/components/SelectField.vue';
import TextField from '@/components/TextField.vue';
import { formatValue } from '@/support/quantity';
import { WAYS } from '@/support/sources';

const props = defineProps<{ may: OwnRows }>();
const emit = defineEmits<{ add: [row: Row] }>();
type Setting = NonNullable<Row['wants']['setting']>;

const NAMES: Record<Setting['kind'], string> = {
  trim: 'Level trim',
  sub_level: 'Sub level',
  fader: 'Fader',
  phone_volume: 'Phone’s volume',
  tone_control: 'Tone control',
  other: 'Another setting',
};
const LONGEST = 20;
const kind = ref<Setting['kind']>('trim');
const shown = ref('');
const problem = ref('');
const output = ref(props.may.outputs[0]?.id ?? '');
const way = ref(props.may.ways[0] ?? null);
const hertz = ref(props.may.tones[0]?.frequency_hz ?? 0);

const settings = computed(() => props.may.settings.map((value) => ({ value, text: NAMES[value] })));
const outputs = computed(() => props.may.outputs.map((output) => ({ value: output.id, text: output.name })));
const ways = computed(() => props.may.ways.map((value) => ({ value, text: WAYS[value] })));
const tones = computed(() =>
  props.may.tones.map((tone) => ({ value: tone.frequency_hz, text: formatValue(tone.frequency_hz, 'Hz') })),
);

function add(): void {
  const value = shown.value.trim();
  if (!value || value.length > LONGEST) {
    problem.value = value ? `At most ${LONGEST} letters.` : 'Type what the source shows.';
    return;
  }
  const tone = props.may.tones.find((tone) => tone.frequency_hz === hertz.value) ?? null;
  const parts = [
    `${NAMES[kind.value]} ${value}`,
    outputs.value.find((choice) => choice.value === output.value)?.text,
  ];
  emit('add', {
    key: 'own',
    name: parts.filter(Boolean).join(', '),
    quantity: 'ac_volts',
    unit: 'V',
    point: { kind: 'output', source: '', output: output.value },
    probe: `the output ${outputs.value.find((choice) => choice.value === output.value)?.text ?? ''}`,
    wants: { tone, way: way.value, setting: { kind: kind.value, shown: value, output: output.value } },
    play: tone ? `${formatValue(tone.frequency_hz, 'Hz')} sine` : '',
    note: 'at its clean maximum',
    choices: [],
    optional: true,
  });
  shown.value = '';
  problem.value = '';
}
</script>

<template>
  <FoldBox title="Compare another setting">
    <form class="form" novalidate @submit.prevent="add">
      <SelectField v-model="kind" label="Setting" :options="settings" />
      <TextField v-model="shown" label="As the source shows it" :problem="problem" />
      <SelectField v-if="outputs.length > 1" v-model="output" label="Output" :options="outputs" />
      <SelectField v-if="ways.length > 1" v-model="way" label="Way of playing" :options="ways" />
      <SelectField v-if="tones.length > 1" v-model="hertz" label="Tone" :options="tones" />
      <BButton type="submit" variant="plain">Add this row</BButton>
    </form>
  </FoldBox>
</template>

<style scoped>
.form {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(11rem, 1fr));
  gap: 0 0.8rem;
  align-items: start;
}
.form button {
  margin-top: 2rem;
  min-height: 44px;
}
</style>
