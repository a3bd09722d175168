<script setup lang="ts">
/** A clean maximum measured on a bench without any vehicle, typed in. */
import { computed, ref } from 'vue';
import type { Cell, SourceSheet } from '@/api/client';
import FoldBox from '@/components/FoldBox.vue';
import QuantityField from '@/components/QuantityField.vue';
import SelectField from '@/components/SelectField.vue';
import TextField from '@/components/TextField.vue';
import { usePreferences } from '@/composables/usePreferences';
import { outputOptions, WAY_OPTIONS } from '@/support/sources';

const props = defineProps<{ sheet: SourceSheet }>();
const emit = defineEmits<{ add: [cell: Cell] }>();
const preferences = usePreferences();
const output = ref(props.sheet.outputs[0]?.id ?? '');
const side = ref<NonNullable<Cell['side']> | null>(null);
const way = ref<NonNullable<Cell['way']> | null>(null);
const clean = ref<number | null>(null);
const volts = ref<number | null>(null);
const clipped = ref<number | null>(null);
const doubt = ref<number | null>(null);
const tone = ref(1000);
const trim = ref('');
const sub = ref('');
const other = ref('');
const otherValue = ref('');

const outputs = computed(() => outputOptions(props.sheet));
const SIDES = [
  { value: null, text: 'both alike' },
  { value: 'left' as const, text: 'Left' },
  { value: 'right' as const, text: 'Right' },
];

function add(): void {
  if (clean.value === null) return;
  emit('add', {
    output: output.value,
    side: side.value,
    way: way.value,
    tone_hz: tone.value,
    trim: trim.value,
    sub_level: sub.value,
    others: other.value.trim() ? [{ setting: other.value, value: otherValue.value }] : [],
    clean: clean.value,
    clean_v: volts.value,
    doubt_v: doubt.value,
    clipped: clipped.value,
    rungs: [],
    basis: 'marked',
    taken_on: new Date().toISOString().slice(0, 10),
    by: preferences.value.name,
    taken_over: false,
  });
}
</script>

<template>
  <section class="sheet">
    <FoldBox title="Add a clean maximum" :open="!sheet.units?.length">
      <p class="quiet">
        Nothing else connected. From half volume up one number at a time; the last number that is clean, and
        the volts it gives.
      </p>
      <form class="fields-of-source" @submit.prevent="add">
        <SelectField v-model="output" label="Output" :options="outputs" />
        <SelectField v-model="side" label="Side" :options="SIDES" />
        <SelectField v-model="way" label="Played by" :options="WAY_OPTIONS" />
        <QuantityField v-model="clean" :empty="null" label="Clean maximum" kind="count" unknown="" />
        <QuantityField v-model="volts" :empty="null" label="Volts there" kind="volts" unknown="not noted" />
        <QuantityField
          v-model="doubt"
          :empty="null"
          label="Doubt of the volts, ±"
          kind="volts"
          unknown="not known"
        />
        <QuantityField
          v-model="clipped"
          :empty="null"
          label="First clipped number"
          kind="count"
          unknown="can’t tell"
        />
        <QuantityField v-model="tone" label="Tone" kind="hertz" />
        <TextField v-model="trim" label="Trim, as it shows" />
        <TextField v-model="sub" label="Sub level, as it shows" />
        <TextField v-model="other" label="Another setting" hint="Fader, phone’s volume …" />
        <TextField v-if="other.trim()" v-model="otherValue" label="Its value, as it shows" />
        <BButton type="submit" variant="primary" :disabled="clean === null">Add it</BButton>
      </form>
    </FoldBox>
  </section>
</template>
