<script setup lang="ts" generic="T extends number | null">
import { computed, useId } from 'vue';
import { useDoubts } from '@/composables/useDoubts';
import { useQuantityText } from '@/composables/useQuantityText';
import { formatValue, mayBeNegative, negated, type QuantityKind } from '@/support/quantity';
import quantities from '@/support/quantities.json';
import NotSaved from './NotSaved.vue';

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

const id = useId();
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
  <div :data-place="mark">
    <label class="form-label" :for="id">{{ label }}</label>
    <div class="line">
      <BFormInput
        :id="id"
        class="digits"
        inputmode="decimal"
        autocomplete="off"
        :placeholder="placeholder"
        :model-value="text"
        :state="shownProblem ? false : null"
        :aria-describedby="`${id}-about`"
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
    <div :id="`${id}-about`" class="about">
      <NotSaved v-if="shownProblem" :problem="shownProblem" />
      <span v-else-if="shownHint" class="quiet">{{ shownHint }}</span>
    </div>
  </div>
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
.about {
  font-size: 0.9rem;
  min-height: 1.4em;
}
</style>
