<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue';
import type { NewMark } from '@/api/client';
import { pressed } from '@/support/keys';
import { SkipDialog } from '../skipDialog';
import type { StepProps } from '.';

const props = defineProps<StepProps>();
const emit = defineEmits<{ volume: [number: number]; onward: [] }>();
type Answer = NonNullable<NewMark['answer']>;
const WORDS: Record<Answer, string> = { done: 'Done', absent: 'Doesn’t apply', left: 'Leave as is …' };

const items = computed(() => props.desk.step.value?.items ?? []);
/** What was answered, the answers still on their way included. */
const answers = computed(() => {
  const kept = (props.desk.state.value?.answers ?? []).map((answer) => [answer.item, answer] as const);
  const sent = props.desk.outbox.waiting.value.flatMap((entry) =>
    entry.kind === 'mark' && entry.body.step === props.desk.key.value && entry.body.item && entry.body.answer
      ? [
          [
            entry.body.item,
            { item: entry.body.item, answer: entry.body.answer, note: entry.body.note ?? '' },
          ] as const,
        ]
      : [],
  );
  return new Map([...kept, ...sent]);
});
const isFinished = computed(() => items.value.every((item) => answers.value.has(item.key)));
const at = ref(0);
const rows = ref<HTMLElement[]>([]);
const leaving = ref(false);

function firstOpen(): number {
  const index = items.value.findIndex((item) => !answers.value.has(item.key));
  return index < 0 ? items.value.length - 1 : index;
}
watch(items, () => (at.value = firstOpen()), { immediate: true });

function move(index: number): void {
  at.value = Math.max(0, Math.min(items.value.length - 1, index));
  void nextTick(() => rows.value[at.value]?.scrollIntoView({ block: 'nearest' }));
}

function answer(value: Answer, note = '', index = at.value): void {
  const item = items.value[index];
  if (!item) return;
  props.desk.say({ item: item.key, answer: value, note });
  void nextTick(() => move(index + 1 < items.value.length ? index + 1 : firstOpen()));
}

function leave(index: number): void {
  at.value = index;
  leaving.value = true;
}

function handleKey(event: KeyboardEvent): boolean {
  const acts: Record<string, () => void> = {
    ArrowDown: () => move(at.value + 1),
    ArrowUp: () => move(at.value - 1),
    a: () => answer('absent'),
    l: () => leave(at.value),
    Enter: () => (isFinished.value ? emit('onward') : answer('done')),
  };
  return pressed(event, acts);
}
defineExpose({ handleKey });
</script>

<template>
  <ol class="step-lines">
    <li
      v-for="(item, index) in items"
      :key="item.key"
      ref="rows"
      :class="{ here: index === at, answered: answers.has(item.key) }"
      :aria-current="index === at ? 'true' : undefined"
    >
      <div class="text">
        <strong>{{ item.text }}</strong>
        <span v-if="item.why" class="quiet">{{ item.why }}</span>
        <span v-if="answers.get(item.key)" class="said-clean">
          <template v-if="answers.get(item.key)?.answer === 'done'">✓ Done</template>
          <template v-else-if="answers.get(item.key)?.answer === 'absent'">– Doesn’t apply</template>
          <span v-else class="said-edge">↺ Left as is: {{ answers.get(item.key)?.note }}</span>
        </span>
      </div>
      <div class="answers">
        <BButton
          class="btn-run"
          variant="clean"
          :aria-label="`Done: ${item.text}`"
          @click="answer('done', '', index)"
        >
          {{ WORDS.done }}
        </BButton>
        <BButton
          variant="plain"
          :aria-label="`Doesn’t apply: ${item.text}`"
          @click="answer('absent', '', index)"
        >
          {{ WORDS.absent }}
        </BButton>
        <BButton variant="plain" :aria-label="`Leave as is: ${item.text}`" @click="leave(index)">{{
          WORDS.left
        }}</BButton>
      </div>
    </li>
  </ol>
  <p class="quiet keys">
    <kbd>Enter</kbd> done · <kbd>A</kbd> doesn’t apply · <kbd>L</kbd> leave as is, with the reason ·
    <kbd>↑</kbd> <kbd>↓</kbd> move
  </p>
  <SkipDialog
    v-if="leaving"
    v-model="leaving"
    :title="items[at]?.text ?? ''"
    :question="`Leave as is: ${items[at]?.text ?? ''}`"
    @skip="(note) => answer('left', note)"
  />
</template>

<style scoped lang="scss">
@use '@/styles/breakpoints' as at;

.step-lines > li {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem 1rem;
  align-items: center;
  padding: 0.55rem 0.8rem;
  background: var(--sheet);
  border: 1px solid var(--line);
  border-left: 6px solid transparent;
}
.step-lines > li.here {
  border-color: var(--ink);
}
.text {
  display: grid;
  flex: 1 1 300px;
}
.text strong {
  font-size: 1.12rem;
}
.answers {
  display: flex;
  align-items: center;
  gap: 0.4rem;
}
.answers .btn-run {
  min-width: 96px;
}
.answered .btn-clean {
  --bs-btn-bg: var(--clean-wash);
  --bs-btn-color: var(--ink);
}
.keys {
  margin: 0.6rem 0 0;
}
/* Without keys there is nothing to name. */
@include at.touch {
  .keys {
    display: none;
  }
}
@include at.phone {
  .answers {
    width: 100%;
  }
  .answers > * {
    flex: 1;
  }
}
</style>
