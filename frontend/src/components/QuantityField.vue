<script setup lang="ts" generic="T extends number | null">
import { computed } from 'vue';
import { useDoubts } from '@/composables/useDoubts';
import { useQuantityText } from '@/composables/useQuantityText';
import { formatValue, mayBeNegative, negated, type QuantityKind } from '@/support/quantity';
import quantities from '@/support/quantities.json';
import FormRow from './FormRow.vue';

const props = defineProps<{
  label: string;
  kind: QuantityKind;
  modelValue: T | undefined;
  hint?: string;
  problem?: string;
  /** What an empty field means, for values that may be unknown. */
  empty?: T;
  /** What an empty field shows. */
  unknown?: string;
  /** The usual value, which an emptied field is counted with from then on. */
  usual?: T | undefined;
  /** Its place within the system, parts by their ids, where it counts as not confirmed once it was emptied. */
  mark?: string;
}>();
const emit = defineEmits<{ 'update:modelValue': [value: T] }>();

const { hintAt, doubt } = useDoubts();
const { text, reason, typed, focus, leave } = useQuantityText<T>(
  () => props.modelValue,
  () => props.kind,
  (value) => emit('update:modelValue', value),
  () => (props.empty === undefined ? props.usual : props.empty),
  () => props.mark && props.usual !== undefined && doubt(props.mark),
);
const shownHint = computed(() => hintAt(props.mark) ?? props.hint);
const placeholder = computed(() => {
  if (props.empty !== undefined) return props.unknown ?? 'not known';
  return props.usual == null ? '' : `not known: ${formatValue(props.usual, quantities[props.kind].unit)}`;
});
const shownProblem = computed(() => reason.value || props.problem || '');
</script>

<template>
  <FormRow
    v-slot="{ id, about, state }"
    :data-place="mark"
    :label="label"
    :hint="shownHint"
    :problem="shownProblem"
  >
    <div class="line">
      <BFormInput
        :id="id"
        class="digits"
        inputmode="decimal"
        autocomplete="off"
        :placeholder="placeholder"
        :model-value="text"
        :state="state"
        :aria-describedby="about"
        @update:model-value="typed"
        @focus="focus"
        @blur="leave"
      />
      <BButton
        v-if="mayBeNegative(kind)"
        class="sign only-touch"
        variant="plain"
        tabindex="-1"
        aria-label="Change the sign"
        @click="typed(negated(text))"
        >±</BButton
      >
    </div>
  </FormRow>
</template>

<style scoped>
.line {
  display: flex;
  gap: 0.3rem;
}
.sign {
  flex: none;
  width: 44px;
  padding-inline: 0;
  justify-content: center;
  text-align: center;
}
</style>
