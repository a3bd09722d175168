<script setup lang="ts">
/** Where practitioners disagree: the method this job follows, and what it costs. */
import { useQuery } from '@tanstack/vue-query';
import { computed } from 'vue';
import { api, type Choices, type Question } from '@/api/client';
import QuantityField from '@/components/QuantityField.vue';
import SelectField from '@/components/SelectField.vue';

defineProps<{ problems: Record<string, string>; converters?: boolean }>();
const choices = defineModel<Choices>({ required: true });

const { data: questions } = useQuery({
  queryKey: ['methods'],
  queryFn: api.methods,
  staleTime: Infinity,
});
/** The usual levels, and whatever a job file brought along. */
const levels = computed(() =>
  [...new Set([0, -3, -5, -10, choices.value.tone_level_dbfs ?? 0])]
    .sort((level, other) => other - level)
    .map((value) => ({
      value,
      text: value ? `−${-value} dBFS: ${-value} dB of overlap` : '0 dBFS: nothing ever clips',
    })),
);

const converterLevels = computed(() => [
  { value: null, text: 'as for the gain' },
  ...levels.value.map(({ value }) => ({ value, text: value ? `−${-value} dBFS` : '0 dBFS' })),
]);

type Field = keyof Choices;
const chosen = (question: Question) => String(choices.value[question.field as Field]);
function hint(question: Question): string {
  const costs = question.options.find((option) => option.value === chosen(question))?.costs ?? '';
  return chosen(question) === question.default ? `${costs} ${question.default_because}` : costs;
}
function choose(question: Question, value: string): void {
  (choices.value as Record<string, unknown>)[question.field] = value;
}
</script>

<template>
  <section class="sheet">
    <h2 class="h4">Methods</h2>
    <p class="quiet">Installers do this differently. The drawback of each method is shown below it.</p>
    <div class="methods">
      <div v-for="question in questions ?? []" :key="question.field">
        <SelectField
          :model-value="chosen(question)"
          :label="question.ask"
          :options="question.options.map(({ value, name }) => ({ value, text: name }))"
          :hint="hint(question)"
          @update:model-value="(value) => choose(question, value)"
        />
        <QuantityField
          v-if="question.field === 'top_volume' && choices.top_volume === 'in_hand'"
          v-model="choices.clicks_in_hand"
          label="Numbers below the clean maximum"
          kind="count"
          :problem="problems['choices.clicks_in_hand']"
        />
        <QuantityField
          v-if="question.field === 'converter_output' && choices.converter_output === 'typed'"
          v-model="choices.converter_v"
          label="Volts at the converter’s outputs"
          kind="volts"
          :problem="problems['choices.converter_v']"
        />
        <QuantityField
          v-if="question.field === 'blend' && choices.blend === 'spectrum'"
          v-model="choices.cabin_bass_db"
          label="Bass over the middle, wanted"
          kind="decibels"
          hint="40 Hz over 1 kHz at the seat."
          :problem="problems['choices.cabin_bass_db']"
        />
        <QuantityField
          v-if="question.field === 'crossing' && choices.crossing === 'overlap'"
          v-model="choices.overlap_hz"
          label="Overlap round 80 Hz"
          kind="hertz"
          :problem="problems['choices.overlap_hz']"
        />
      </div>
      <SelectField
        v-model="choices.tone_level_dbfs"
        label="Tone level for the gain"
        :options="levels"
        hint="A lower level suits quiet tracks; full-scale tracks then clip."
      />
      <SelectField
        v-if="converters"
        v-model="choices.converter_level_dbfs"
        label="Tone level for converters"
        :options="converterLevels"
      />
      <QuantityField
        v-model="choices.allowance_percent"
        label="Allowance on the speaker’s rating"
        kind="percent"
        hint="0 keeps to the rating. More can burn the speaker; the sheet says so."
        :problem="problems['choices.allowance_percent']"
      />
      <QuantityField
        v-model="choices.wanted_db"
        :empty="null"
        label="Wanted loudness at 1 m"
        kind="decibels"
        unknown="optional"
        hint="The plan shows the power it needs. 85 dB for eight hours harms hearing."
        :problem="problems['choices.wanted_db']"
      />
      <QuantityField
        v-model="choices.sub_tone_hz"
        label="Sub tone"
        kind="hertz"
        hint="Usually 40, 50 or 60 Hz."
        :problem="problems['choices.sub_tone_hz']"
      />
      <QuantityField
        v-model="choices.full_tone_hz"
        label="Other tone"
        kind="hertz"
        hint="Usually 1 kHz."
        :problem="problems['choices.full_tone_hz']"
      />
    </div>
  </section>
</template>

<style scoped>
.methods {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(17rem, 1fr));
  gap: 0.6rem 1.2rem;
}
</style>
