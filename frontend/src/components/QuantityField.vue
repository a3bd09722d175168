<script setup lang="ts">
import { computed, ref, useId, watch } from 'vue';
import { formatValue, parseQuantity, type QuantityKind } from '@/support/quantity';
import quantities from '@/support/quantities.json';

const props = defineProps<{
  label: string;
  kind: QuantityKind;
  modelValue: number;
  hint?: string;
  problem?: string;
}>();
const emit = defineEmits<{ 'update:modelValue': [value: number] }>();

const id = useId();
const shown = (value: number) => formatValue(value, quantities[props.kind].unit, 6);
const text = ref(shown(props.modelValue));
const focused = ref(false);
const reason = ref('');
const problem = computed(() => reason.value || props.problem || '');

watch(
  () => props.modelValue,
  (value) => {
    if (!focused.value && !reason.value) text.value = shown(value);
  },
);

function typed(value: string | number | null): void {
  text.value = String(value ?? '');
  const parsed = parseQuantity(text.value, props.kind);
  reason.value = 'reason' in parsed ? parsed.reason : '';
  if ('value' in parsed && parsed.value !== props.modelValue) emit('update:modelValue', parsed.value);
}

function left(): void {
  focused.value = false;
  if (!reason.value) text.value = shown(props.modelValue);
}
</script>

<template>
  <div>
    <label class="form-label" :for="id">{{ label }}</label>
    <BFormInput
      :id="id"
      class="digits"
      inputmode="decimal"
      autocomplete="off"
      :model-value="text"
      :state="problem ? false : null"
      :aria-describedby="`${id}-about`"
      @update:model-value="typed"
      @focus="focused = true"
      @blur="left"
    />
    <div :id="`${id}-about`" class="about">
      <span v-if="problem" class="said-clipped">{{ problem }} Not saved.</span>
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
