<script setup lang="ts" generic="T extends number | null">
import { computed, useId } from 'vue';
import { useQuantityText } from '@/composables/useQuantityText';
import { keyboardFor, type QuantityKind } from '@/support/quantity';
import NotSaved from './NotSaved.vue';

const props = defineProps<{
  label: string;
  kind: QuantityKind;
  modelValue: T | undefined;
  hint?: string;
  problem?: string;
  /** What an empty field means, for values that may be unknown. */
  empty?: T;
  /** What stands in an empty field. */
  unknown?: string;
}>();
const emit = defineEmits<{ 'update:modelValue': [value: T] }>();

const id = useId();
const { text, reason, typed, focus, leave } = useQuantityText<T>(
  () => props.modelValue,
  () => props.kind,
  (value) => emit('update:modelValue', value),
  props.empty,
);
const shownProblem = computed(() => reason.value || props.problem || '');
</script>

<template>
  <div>
    <label class="form-label" :for="id">{{ label }}</label>
    <BFormInput
      :id="id"
      class="digits"
      :inputmode="keyboardFor(kind)"
      autocomplete="off"
      :placeholder="empty === undefined ? '' : (unknown ?? 'not known')"
      :model-value="text"
      :state="shownProblem ? false : null"
      :aria-describedby="`${id}-about`"
      @update:model-value="typed"
      @focus="focus"
      @blur="leave"
    />
    <div :id="`${id}-about`" class="about">
      <NotSaved v-if="shownProblem" :problem="shownProblem" />
      <span v-else-if="hint" class="quiet">{{ hint }}</span>
    </div>
  </div>
</template>

<style scoped>
.about {
  font-size: 0.9rem;
  min-height: 1.4em;
}
</style>
