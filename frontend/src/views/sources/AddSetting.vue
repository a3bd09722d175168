<script setup lang="ts">
/** A setting tried with and without, at one number, typed in as the source shows it. */
import { computed, ref } from 'vue';
import type { SourceSheet, Tried } from '@/api/client';
import FoldBox from '@/components/FoldBox.vue';
import QuantityField from '@/components/QuantityField.vue';
import SelectField from '@/components/SelectField.vue';
import TextField from '@/components/TextField.vue';
import { outputOptions, WAY_OPTIONS } from '@/support/sources';

const props = defineProps<{ sheet: SourceSheet }>();
const emit = defineEmits<{ add: [tried: Tried] }>();
const setting = ref('');
const value = ref('');
const output = ref(props.sheet.outputs[0]?.id ?? '');
const way = ref<NonNullable<Tried['way']> | null>(null);
const number = ref<number | null>(null);
const without = ref<number | null>(null);
const withIt = ref<number | null>(null);
const cleanWithout = ref<number | null>(null);
const cleanWith = ref<number | null>(null);

const lacking = computed(
  () => !setting.value.trim() || number.value === null || without.value === null || withIt.value === null,
);
function add(): void {
  if (number.value === null || without.value === null || withIt.value === null) return;
  emit('add', {
    setting: setting.value,
    value: value.value,
    output: output.value,
    way: way.value,
    volume: number.value,
    without_v: without.value,
    with_v: withIt.value,
    clean_without: cleanWithout.value,
    clean_with: cleanWith.value,
  });
}
</script>

<template>
  <section class="sheet">
    <FoldBox title="Add a setting that was tried">
      <p class="quiet">
        Loudness, an expander, the player’s normaliser, the phone’s volume: the volts with and without it, at
        one and the same number, well below clipping.
      </p>
      <form class="fields-of-source" @submit.prevent="add">
        <TextField v-model="setting" label="Setting" />
        <TextField v-model="value" label="Value, as it shows" />
        <SelectField v-model="output" label="At output" :options="outputOptions(sheet)" />
        <SelectField v-model="way" label="Played by" :options="WAY_OPTIONS" />
        <QuantityField v-model="number" :empty="null" label="Volume number" kind="count" unknown="" />
        <QuantityField v-model="without" :empty="null" label="Volts without it" kind="volts" unknown="" />
        <QuantityField v-model="withIt" :empty="null" label="Volts with it" kind="volts" unknown="" />
        <QuantityField
          v-model="cleanWithout"
          :empty="null"
          label="Clean maximum without it"
          kind="count"
          unknown="not looked for"
        />
        <QuantityField
          v-model="cleanWith"
          :empty="null"
          label="Clean maximum with it"
          kind="count"
          unknown="not looked for"
        />
        <BButton type="submit" variant="primary" :disabled="lacking">Save</BButton>
      </form>
    </FoldBox>
  </section>
</template>
