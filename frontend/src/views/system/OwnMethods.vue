<script setup lang="ts">
/** Methods in which a path doesn’t follow the job, and a target that somebody gives. */
import { useQuery } from '@tanstack/vue-query';
import { computed } from 'vue';
import { api, type Choices, type Path } from '@/api/client';
import FoldBox from '@/components/FoldBox.vue';
import QuantityField from '@/components/QuantityField.vue';
import SelectField from '@/components/SelectField.vue';
import TextField from '@/components/TextField.vue';

const props = defineProps<{ problems: Record<string, string>; pathPlace: string; choices: Choices }>();
const path = defineModel<Path>({ required: true });

const { data: questions } = useQuery({ queryKey: ['methods'], queryFn: api.methods, staleTime: Infinity });
const AS_THE_JOB = 'as the job';
const gains = computed(() => {
  const options = questions.value?.find(({ field }) => field === 'gain')?.options ?? [];
  return [
    { value: AS_THE_JOB, text: 'As the job' },
    ...options.map(({ value, name }) => ({ value, text: name })),
  ];
});
const gain = computed({
  get: () => path.value.own.gain ?? AS_THE_JOB,
  set: (value: string) => {
    path.value.own.gain = value === AS_THE_JOB ? null : (value as Choices['gain']);
  },
});
const job = computed(() => ({
  level: `as the job: ${props.choices.tone_level_dbfs} dBFS`.replace('-', '−'),
  allowance: `as the job: ${props.choices.allowance_percent} %`.replace('-', '−'),
}));
/** How many figures differ from the job’s. */
const count = computed(() => {
  const { gain, tone_level_dbfs, allowance_percent } = path.value.own;
  return [gain, tone_level_dbfs, allowance_percent, path.value.wanted_v].filter((figure) => figure != null)
    .length;
});
</script>

<template>
  <FoldBox :title="`This path’s own target and methods: ${count || 'none'}`">
    <div class="row g-2">
      <QuantityField
        v-model="path.wanted_v"
        :empty="null"
        class="col-6 col-md-4"
        label="Target volts, if given"
        kind="volts"
        unknown="worked out"
        hint="At the whole load; checked against √(watts × ohms)"
        :problem="problems[`${pathPlace}.wanted_v`]"
      />
      <TextField
        v-if="path.wanted_v != null"
        v-model="path.wanted_from"
        class="col-6 col-md-4"
        label="The figure is from"
        :problem="problems[`${pathPlace}.wanted_from`]"
      />
      <SelectField v-model="gain" class="col-md-8" label="Gain target" :options="gains" />
      <QuantityField
        v-model="path.own.tone_level_dbfs"
        :empty="null"
        class="col-12 col-sm-6 col-md-4"
        label="Tone level, dBFS"
        kind="decibels"
        :unknown="job.level"
        :problem="problems[`${pathPlace}.own.tone_level_dbfs`]"
      />
      <QuantityField
        v-model="path.own.allowance_percent"
        :empty="null"
        class="col-12 col-sm-6 col-md-4"
        label="Allowance on the speaker’s rating"
        kind="percent"
        :unknown="job.allowance"
        :problem="problems[`${pathPlace}.own.allowance_percent`]"
      />
    </div>
  </FoldBox>
</template>
