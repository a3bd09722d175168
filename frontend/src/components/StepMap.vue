<script setup lang="ts">
/** The steps of a run as a row of marks; on the list of jobs small and without names. */
import { useElementSize } from '@vueuse/core';
import { computed, useTemplateRef } from 'vue';
import type { State, Step } from '@/api/client';

const props = defineProps<{
  steps: Pick<Step, 'key' | 'name' | 'stage'>[];
  states: State[];
  current?: string;
  small?: boolean;
}>();
const emit = defineEmits<{ choose: [step: string] }>();

/** What a name needs beside its number, and a finger at all. */
const NAME_PX = 100;
const BLOCK_PX = 48;
const FEWEST = 5;
const row = useTemplateRef<HTMLElement>('row');
const { width } = useElementSize(row);
const capacity = computed(() =>
  width.value > 0 ? Math.max(FEWEST, Math.floor(width.value / BLOCK_PX)) : props.steps.length,
);

/** One mark: a step, or several that aren't at hand. */
type StepMark = { key: string; go: string; name: string; state: State; number: number; count: string };
type Placed = { step: (typeof props.steps)[number]; state: State; number: number };
const placed = computed<Placed[]>(() =>
  props.steps.map((step, index) => ({ step, state: props.states[index] ?? 'open', number: index + 1 })),
);
/** All steps where there is room; else those of the stage at hand, and as much of the rest as fits, folded. */
const marks = computed<StepMark[]>(() => {
  const all = placed.value;
  if (all.length <= capacity.value) return all.map(single);
  const here = props.steps.find((step) => step.key === props.current)?.stage;
  const first = all.findIndex(({ step }) => step.stage === here);
  if (first < 0) return windowOf(all, capacity.value);
  const last = first + all.filter(({ step }) => step.stage === here).length - 1;
  const [before, own, after] = [all.slice(0, first), all.slice(first, last + 1), all.slice(last + 1)];
  const [left, right] = [byStage(before), byStage(after)];
  if (left.length + right.length + own.length <= capacity.value)
    return [...left.map(folded), ...own.map(single), ...right.map(folded)];
  const ends = [before, after].map((steps) => (steps.length ? [folded(steps)] : []));
  const room = capacity.value - ends.flat().length;
  return [...(ends[0] ?? []), ...windowOf(own, room), ...(ends[1] ?? [])];
});
const single = ({ step, state, number }: Placed): StepMark => ({
  key: step.key,
  go: step.key,
  name: step.name,
  state,
  number,
  count: '',
});

function byStage(some: Placed[]): Placed[][] {
  const found: Placed[][] = [];
  for (const step of some) {
    const last = found.at(-1);
    if (last?.[0]?.step.stage === step.step.stage) last.push(step);
    else found.push([step]);
  }
  return found;
}

/** So many of a row of steps, the current one among them; what lies beyond is folded into the outermost. */
function windowOf(some: Placed[], room: number): StepMark[] {
  if (some.length <= room) return some.map(single);
  const at = Math.max(
    0,
    some.findIndex(({ step }) => step.key === props.current),
  );
  const start = Math.min(Math.max(0, at - Math.floor(room / 2)), some.length - room);
  const end = start + room;
  const shown = some.slice(start, end).map(single);
  if (start > 0) shown[0] = folded(some.slice(0, start + 1));
  if (end < some.length) shown[room - 1] = folded(some.slice(end - 1));
  return shown;
}

/** Several steps as one mark; it opens the first step to do. */
function folded(some: Placed[]): StepMark {
  const stages = [...new Set(some.map(({ step }) => step.stage ?? ''))];
  const done = some.filter(({ state }) => state === 'done' || state === 'skipped').length;
  const state = some.some((step) => step.state === 'outdated')
    ? 'outdated'
    : done === some.length
      ? 'done'
      : 'open';
  const next = some.find((step) => step.state === 'outdated' || step.state === 'open') ?? some[0];
  return {
    key: `${some[0]?.step.key} and more`,
    go: next?.step.key ?? '',
    name: stages.join(', '),
    state,
    number: some[0]?.number ?? 0,
    count: `${done}/${some.length}`,
  };
}
/** Whether there is room for names; without it only the page's heading says the current one. */
const named = computed(() => width.value / marks.value.length >= NAME_PX);

/** The small drawing has room for so many: where a run has more, one mark stands for several. */
const MOST_TINY = 40;
const tiny = computed<State[]>(() => {
  const size = Math.ceil(props.states.length / MOST_TINY) || 1;
  const chunks = Array.from({ length: Math.ceil(props.states.length / size) }, (_, index) =>
    props.states.slice(index * size, (index + 1) * size),
  );
  return chunks.map(
    (own) =>
      (['outdated', 'open', 'skipped', 'done'] as const).find((state) => own.includes(state)) ?? 'open',
  );
});

const WORDS: Record<State, string> = { open: 'to do', done: 'done', outdated: 'to redo', skipped: 'skipped' };
const SIGNS: Record<State, string> = { open: '', done: '✓', outdated: '↻', skipped: '–' };
</script>

<template>
  <ol v-if="small" class="step-map tiny" aria-hidden="true">
    <li v-for="(state, index) in tiny" :key="index" class="step-mark" :class="state" />
  </ol>
  <nav v-else aria-label="Steps of the run">
    <ol ref="row" class="step-map" :class="{ named }">
      <li v-for="mark in marks" :key="mark.key">
        <button
          type="button"
          class="step-mark"
          :class="[mark.state, { current: mark.key === current }]"
          :aria-current="mark.key === current ? 'step' : undefined"
          :title="named ? undefined : mark.name"
          @click="emit('choose', mark.go)"
        >
          <span class="sign" aria-hidden="true">{{ mark.count || SIGNS[mark.state] || mark.number }}</span>
          <span class="name">{{ mark.name }}</span>
          <span class="visually-hidden">{{ WORDS[mark.state] }}</span>
        </button>
      </li>
    </ol>
  </nav>
</template>

<style scoped lang="scss">
@use '@/styles/breakpoints' as at;

.step-map {
  display: flex;
  align-items: flex-end;
  gap: clamp(4px, 1.2vw, 14px);
  list-style: none;
  margin: 0;
  padding: 0 clamp(2px, 0.6vw, 7px);
  border-bottom: 10px solid var(--ink);
  min-height: 74px;
}
.step-map > li {
  flex: 1 1 0;
  min-width: 0;
  container-type: inline-size;
}
.step-mark {
  display: flex;
  align-items: center;
  justify-content: center;
  gap: 0.4rem;
  width: 100%;
  height: 46px;
  padding: 0 0.3rem;
  color: var(--ink);
  background: var(--sheet);
  border: 2px solid var(--ink);
  border-bottom: 0;
  border-radius: 0;
  font-weight: 600;
  font-size: 0.95rem;
  overflow: hidden;
  position: relative;
}
.step-mark.current {
  height: 64px;
  border-width: 4px;
  border-bottom: 0;
}
.step-mark.done {
  background: var(--clean);
  color: var(--on-fill);
}
.step-mark.outdated {
  color: var(--ink);
  background: repeating-linear-gradient(-45deg, var(--ochre-wash) 0 9px, var(--sheet) 9px 15px);
}
.step-mark.skipped {
  border-style: dashed;
  color: var(--grey);
}
.sign {
  flex: none;
}
.name {
  display: -webkit-box;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 2;
  line-clamp: 2;
  line-height: 1.1;
  overflow: hidden;
}
@container (max-width: 104px) {
  .step-mark {
    gap: 0.2rem;
    padding: 0 0.1rem;
    font-size: 0.875rem;
  }
}
.tiny {
  min-height: 0;
  gap: min(4px, 1%);
  padding: 0 2px;
  border-bottom-width: 5px;
  max-width: 260px;
}
.tiny .step-mark {
  flex: 1 1 0;
  min-width: 0;
  padding: 0;
  height: 18px;
  border-width: 1.5px;
  border-bottom: 0;
}
.tiny .outdated {
  background: repeating-linear-gradient(-45deg, var(--ochre) 0 3px, var(--sheet) 3px 7px);
}
/* Without room for names the blocks have their numbers; readers hear the names all the same. */
.step-map:not(.named, .tiny) {
  gap: 4px;
}
.step-map:not(.named, .tiny) .name {
  position: absolute;
  width: 1px;
  height: 1px;
  clip-path: inset(50%);
}
@include at.lying {
  .step-map:not(.tiny) {
    min-height: 48px;
    border-bottom-width: 4px;
  }
  .step-map:not(.tiny) .step-mark {
    height: 44px;
    border-width: 2px;
  }
}
</style>
