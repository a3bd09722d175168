<script setup lang="ts">
/** Marking the knobs: a line for the position of each knob and switch. */
import { computed, nextTick, ref, watch } from 'vue';
import StepOrders from '../StepOrders.vue';
import type { StepProps } from '.';

const props = defineProps<StepProps>();
const emit = defineEmits<{ volume: [number: number]; onward: [] }>();
const MOST = 80;
const items = computed(() => props.desk.step.value?.items ?? []);
/** What was written, also what is still on its way. */
const written = computed(() => {
  const kept = (props.desk.state.value?.answers ?? []).map((answer) => [answer.item, answer.note] as const);
  const sent = props.desk.outbox.waiting.value.flatMap((entry) =>
    entry.kind === 'mark' && entry.body.step === props.desk.key.value && entry.body.item
      ? [[entry.body.item, entry.body.note ?? ''] as const]
      : [],
  );
  return new Map([...kept, ...sent]);
});
const texts = ref<Record<string, string>>({});
watch(
  items,
  (now) => {
    for (const knob of now) texts.value[knob.key] ??= written.value.get(knob.key) ?? '';
  },
  { immediate: true },
);
const fields = ref<HTMLInputElement[]>([]);

function keep(index: number): void {
  const item = items.value[index];
  if (!item) return;
  props.desk.say({ item: item.key, answer: 'done', note: (texts.value[item.key] ?? '').trim() });
  void nextTick(() => (fields.value[index + 1] ?? document.querySelector<HTMLElement>('main h1'))?.focus());
}

/** Enter begins with the first line that nobody has written; once all are, it goes on. */
function handleKey(event: KeyboardEvent): boolean {
  if (event.key !== 'Enter') return false;
  const first = items.value.findIndex((item) => !written.value.has(item.key));
  if (first < 0) emit('onward');
  else fields.value[first]?.focus();
  return true;
}
defineExpose({ handleKey });
</script>

<template>
  <StepOrders v-if="desk.step.value" :step="desk.step.value" />
  <ol class="step-lines mt-2">
    <li v-for="(item, index) in items" :key="item.key">
      <label :for="`knob-${item.key}`" class="text">
        <strong>{{ item.text }}</strong>
        <span v-if="item.why" class="quiet">{{ item.why }}</span>
        <span v-if="written.has(item.key)" class="said-clean"
          >✓ {{ written.get(item.key) || item.blank }}</span
        >
      </label>
      <span class="quiet">{{ item.asks }}</span>
      <input
        :id="`knob-${item.key}`"
        ref="fields"
        v-model="texts[item.key]"
        class="form-control"
        autocomplete="off"
        :maxlength="MOST"
        :placeholder="item.blank"
        @keydown.enter.prevent.stop="keep(index)"
      />
      <BButton class="btn-run" variant="clean" :aria-label="`Save: ${item.text}`" @click="keep(index)"
        >Save</BButton
      >
    </li>
  </ol>
</template>

<style scoped lang="scss">
@use '@/styles/breakpoints' as at;

.step-lines > li {
  display: grid;
  grid-template-columns: minmax(0, 1.6fr) max-content minmax(0, 1fr) max-content;
  gap: 0.4rem 0.8rem;
  align-items: center;
  padding: 0.4rem 0.8rem;
  background: var(--sheet);
  border: 1px solid var(--line);
}
.text {
  display: grid;
}
.step-lines .form-control {
  min-height: 48px;
  font-size: 1.1rem;
}
@include at.phone {
  .step-lines > li {
    grid-template-columns: minmax(0, 1fr) max-content;
  }
  .text {
    grid-column: 1 / -1;
  }
  .step-lines > li > span.quiet {
    display: none;
  }
}
</style>
