<script
  setup
  lang="ts"
  generic="
    T extends Pick<Amplifier, 'gain_range' | 'high_level_range' | 'highest_input_v' | 'highest_high_level_v'>
  "
>
/** The volts printed around a gain, at both inputs: of an amplifier, or of one of its sections. */
import type { Amplifier } from '@/api/client';
import CheckField from '@/components/CheckField.vue';
import QuantityField from '@/components/QuantityField.vue';
import SelectField from '@/components/SelectField.vue';
import { useNewParts } from '@/composables/useNewParts';

const props = defineProps<{
  problems: Record<string, string>;
  place: string;
  /** Where its values stand among what nobody has confirmed. */
  mark: string;
  words: (input: string) => string;
}>();
const holder = defineModel<T>({ required: true });

const RANGES = [
  { field: 'gain_range' as const, most: 'highest_input_v' as const, name: 'Low-level input' },
  { field: 'high_level_range' as const, most: 'highest_high_level_v' as const, name: 'High-level input' },
];
const SCALES = [
  { value: 'this_load' as const, text: 'This load' },
  { value: 'rated_load' as const, text: 'The highest rated load' },
];
const { fresh } = useNewParts();
function known(range: (typeof RANGES)[number], has: boolean): void {
  holder.value[range.field] = has ? (fresh(range.field) ?? null) : null;
}
const at = (field: string) => props.problems[`${props.place}.${field}`];
</script>

<template>
  <template v-for="range in RANGES" :key="range.field">
    <CheckField
      :model-value="holder[range.field] != null"
      :label="words(range.name)"
      @update:model-value="(has) => known(range, has)"
    />
    <div v-if="holder[range.field]" class="three-fields">
      <QuantityField
        v-model="holder[range.field]!.down_v"
        label="Gain fully down"
        kind="volts"
        hint="The larger number"
        :usual="fresh(range.field)?.down_v"
        :mark="`${mark}.${range.field}`"
        :problem="at(range.field)"
      />
      <QuantityField
        v-model="holder[range.field]!.up_v"
        label="Gain fully up"
        kind="volts"
        hint="The smaller number"
        :usual="fresh(range.field)?.up_v"
        :mark="`${mark}.${range.field}`"
      />
      <QuantityField
        v-model="holder[range.most]"
        :empty="null"
        label="Max input"
        kind="volts"
        :problem="at(range.most)"
      />
      <SelectField
        v-model="holder[range.field]!.scale_of"
        label="Sensitivity is stated for"
        :options="SCALES"
        hint="If the sheet doesn’t say: this load"
        class="scale"
      />
    </div>
  </template>
</template>
