<script setup lang="ts">
import { computed, ref, useId } from 'vue';
import { keyboardFor, parseQuantity, type QuantityKind } from '@/support/quantity';

const props = withDefaults(defineProps<{ live: number | null; label: string; kind?: QuantityKind }>(), {
  kind: 'volts',
});
const text = ref('');
const reason = ref('');
const id = useId();
const field = ref<{ $el: HTMLInputElement } | null>(null);
const WORDS: Partial<Record<QuantityKind, string>> = {
  volts: 'type the volts',
  direct_volts: 'type the volts',
  ohms: 'type the ohms',
  seconds: 'type the seconds',
  decibels: 'type the decibels',
};
const placeholder = computed(() => (props.live === null ? (WORDS[props.kind] ?? 'type what shows') : 'live'));

/** The volts that stand: what was typed, or the live value when nothing was. Null, with the reason shown, if unreadable. */
function take(): number | null {
  if (!text.value.trim() && props.live !== null && props.live > 0) return props.live;
  const parsed =
    props.live === 0 && !text.value.trim()
      ? { reason: 'The meter shows zero: is the tone playing, and the probe on?' }
      : parseQuantity(text.value, props.kind);
  if ('reason' in parsed) {
    reason.value = parsed.reason;
    focus();
    return null;
  }
  text.value = '';
  reason.value = '';
  return parsed.value;
}

function focus(): void {
  field.value?.$el.focus();
}

/** Digits typed anywhere begin a reading. */
function begin(event: KeyboardEvent): boolean {
  if (event.target === field.value?.$el || !/^[\d.,-]$/.test(event.key)) return false;
  text.value += event.key;
  focus();
  return true;
}

/** Puts in what was measured otherwise, such as by the stopwatch. */
function put(value: string): void {
  text.value = value;
  reason.value = '';
  focus();
}
const hasText = () => text.value.trim() !== '';
defineExpose({ take, begin, hasText, put });
</script>

<template>
  <div class="entry">
    <label :for="id" class="form-label">{{ label }}</label>
    <BFormInput
      :id="id"
      ref="field"
      v-model="text"
      class="digits"
      data-reading
      :inputmode="keyboardFor(kind)"
      autocomplete="off"
      :placeholder="placeholder"
      :state="reason ? false : null"
      :aria-describedby="`${id}-reason`"
      @update:model-value="reason = ''"
    />
    <p :id="`${id}-reason`" class="said-clipped reason" role="alert">{{ reason }}</p>
  </div>
</template>

<style scoped>
.entry .form-control {
  min-height: 64px;
  font-size: 1.7rem;
}
.reason {
  margin: 0.2rem 0 0;
  min-height: 1.5em;
}
</style>
