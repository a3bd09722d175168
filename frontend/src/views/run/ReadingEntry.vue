<script setup lang="ts">
import { computed, ref, useId } from 'vue';
import { usePreferences } from '@/composables/usePreferences';
import { errorInWords } from '@/support/meterError';
import { mayBeNegative, negated, parseQuantity, type QuantityKind, withUnit } from '@/support/quantity';

const props = withDefaults(defineProps<{ live: number | null; label: string; kind?: QuantityKind }>(), {
  kind: 'volts',
});
const text = ref('');
const reason = ref('');
const id = useId();
const field = ref<{ $el: HTMLInputElement } | null>(null);
const WORDS: Partial<Record<QuantityKind, string>> = {
  volts: 'volts',
  direct_volts: 'volts DC',
  ohms: 'ohms',
  seconds: 'seconds',
  decibels: 'decibels',
  steps: 'numbers',
};
const preferences = usePreferences();
const off = computed(() =>
  props.live === null && /volts$/.test(props.kind) ? errorInWords(preferences.value.meterError) : '',
);
const placeholder = computed(() => (props.live === null ? (WORDS[props.kind] ?? 'reading') : 'live'));

/** The volts that stand: what was typed, or the live value when nothing was. Null, with the reason shown, if unreadable. */
function take(): number | null {
  if (!text.value.trim() && props.live !== null && props.live > 0) return props.live;
  const parsed =
    props.live === 0 && !text.value.trim()
      ? { reason: 'The meter shows zero. Check the tone and the probe.' }
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
/** What a phone's number keys lack. */
const extra = computed(() => [
  ...(mayBeNegative(props.kind) ? [{ text: '±', means: 'Turn the sign', turn: negated }] : []),
  ...(/volts$/.test(props.kind)
    ? [{ text: 'mV', means: 'Millivolts', turn: (now: string) => withUnit(now, 'mV') }]
    : []),
]);
const hasText = () => text.value.trim() !== '';
defineExpose({ take, begin, hasText, put, focus });
</script>

<template>
  <div class="entry">
    <label :for="id" class="form-label">{{ label }}</label>
    <div class="line">
      <BFormInput
        :id="id"
        ref="field"
        v-model="text"
        class="digits"
        data-reading
        inputmode="decimal"
        autocomplete="off"
        :placeholder="placeholder"
        :state="reason ? false : null"
        :aria-describedby="`${id}-reason`"
        @update:model-value="reason = ''"
      />
      <div v-if="extra.length" class="extra only-touch">
        <BButton
          v-for="more in extra"
          :key="more.text"
          variant="plain"
          size="sm"
          :aria-label="more.means"
          @click="put(more.turn(text))"
          >{{ more.text }}</BButton
        >
      </div>
    </div>
    <p v-if="off" class="quiet mb-0">{{ off }}</p>
    <p :id="`${id}-reason`" class="said-clipped reason" role="alert">{{ reason }}</p>
  </div>
</template>

<style scoped>
.line {
  position: relative;
}
/* Beside the number, within its field. */
.extra {
  position: absolute;
  right: 0.3rem;
  top: 50%;
  transform: translateY(-50%);
  gap: 0.2rem;
}

.entry .form-control {
  min-height: 64px;
  font-size: 1.7rem;
}
.reason {
  margin: 0.2rem 0 0;
  min-height: 1.5em;
}
</style>
