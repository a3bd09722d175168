<script setup lang="ts">
/** The ways of playing that the customer will use, with their level trims, and the source's own tone settings. */
import type { Source } from '@/api/client';
import CheckField from '@/components/CheckField.vue';
import QuantityField from '@/components/QuantityField.vue';
import TextField from '@/components/TextField.vue';
import { useNewParts } from '@/composables/useNewParts';
import { WAYS } from '@/support/sources';

const props = defineProps<{ problems: Record<string, string>; place: string }>();
const source = defineModel<Source>({ required: true });

const ways = Object.entries(WAYS) as [keyof typeof WAYS, string][];
const STEPS = [
  { field: 'bass' as const, label: 'Bass' },
  { field: 'mid' as const, label: 'Mid' },
  { field: 'treble' as const, label: 'Treble' },
  { field: 'fader' as const, label: 'Fader' },
  { field: 'balance' as const, label: 'Balance' },
];
const input = (kind: string) => source.value.inputs.find((input) => input.kind === kind);

const { fresh } = useNewParts();
function use(kind: keyof typeof WAYS, used: boolean): void {
  const place = source.value.inputs.findIndex((input) => input.kind === kind);
  const part = fresh('playing');
  if (used && place < 0 && part) source.value.inputs.push({ ...part, kind });
  else if (!used && place >= 0) source.value.inputs.splice(place, 1);
}
const at = (field: string) => props.problems[`${props.place}.${field}`];
</script>

<template>
  <h3 class="h6 mt-3">Ways of playing</h3>
  <div class="ways">
    <div v-for="[way, text] in ways" :key="way" class="way">
      <CheckField :model-value="!!input(way)" :label="text" @update:model-value="(used) => use(way, used)" />
      <QuantityField
        v-if="input(way)"
        v-model="input(way)!.trim_db"
        :usual="0"
        :label="`${text}: trim`"
        kind="decibels"
        :problem="at(`inputs.${source.inputs.indexOf(input(way)!)}.trim_db`)"
      />
      <TextField
        v-if="input(way) && way !== 'radio'"
        v-model="input(way)!.player"
        :label="`${text}: player`"
        :problem="at(`inputs.${source.inputs.indexOf(input(way)!)}.player`)"
      />
    </div>
  </div>
  <h3 class="h6 mt-2">Tone settings</h3>
  <p class="quiet mb-1">Zero and off while measuring: each changes the clean maximum.</p>
  <div class="steps">
    <QuantityField
      v-for="step in STEPS"
      :key="step.field"
      v-model="source.tone[step.field]"
      :usual="0"
      :label="step.label"
      kind="steps"
      :problem="at(`tone.${step.field}`)"
    />
    <QuantityField
      v-model="source.tone.sub_level"
      :empty="null"
      label="Sub level"
      kind="steps"
      unknown="none"
      :problem="at('tone.sub_level')"
    />
  </div>
  <div class="d-flex flex-wrap gap-4">
    <CheckField v-model="source.tone.loudness" label="Loudness on" />
    <CheckField v-model="source.tone.expander" label="Expander or leveller on" />
  </div>
</template>

<style scoped>
.ways {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(9.5rem, 1fr));
  gap: 0 0.8rem;
}
.steps {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(6.2rem, 1fr));
  gap: 0 0.6rem;
}
</style>
