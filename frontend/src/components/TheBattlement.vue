<script setup lang="ts">
/** The steps of a run as the merlons of a wall; on the list of jobs a small drawing of it. */
import { useElementSize } from '@vueuse/core';
import { computed, nextTick, useTemplateRef, watch } from 'vue';
import type { State, Step } from '@/api/client';

const props = defineProps<{
  steps: Pick<Step, 'key' | 'name' | 'stage'>[];
  states: State[];
  current?: string;
  small?: boolean;
}>();
const emit = defineEmits<{ choose: [step: string] }>();

const NAME_PX = 100;
const wall = useTemplateRef<HTMLElement>('wall');
const { width } = useElementSize(wall);
/** Without room for the names only the current step has its own, and a long wall scrolls to it. */
const tight = computed(() => width.value > 0 && width.value / props.steps.length < NAME_PX);
watch([() => props.current, tight], async () => {
  await nextTick();
  const [whole, here] = [wall.value, wall.value?.querySelector('.current')].map((one) =>
    one?.getBoundingClientRect(),
  );
  // Sideways only: the page stays where it is.
  if (whole && here)
    wall.value?.scrollBy({ left: here.left + here.width / 2 - whole.left - whole.width / 2 });
});

/** One merlon: a step, or a whole stage of the work that isn't at hand. */
type Merlon = { key: string; go: string; name: string; state: State; number: number; count: string };
/** Where there is no room for all, each stage is one merlon, and only the one at hand opens into its steps. */
const merlons = computed<Merlon[]>(() => {
  const here = props.steps.find((one) => one.key === props.current)?.stage;
  const found: Merlon[] = [];
  props.steps.forEach((step, index) => {
    const state = props.states[index] ?? 'open';
    const own = { key: step.key, go: step.key, name: step.name, state, number: index + 1, count: '' };
    if (!tight.value || !step.stage || step.stage === here) return found.push(own);
    if (found.at(-1)?.key === step.stage) return;
    found.push(stageOf(step.stage, index + 1));
  });
  return found;
});
/** Whether what is left of the wall has room for its names after all. */
const named = computed(() => width.value / merlons.value.length >= NAME_PX);
function stageOf(stage: string, number: number): Merlon {
  const own = props.steps
    .map((one, index) => ({ one, state: props.states[index] ?? 'open' }))
    .filter(({ one }) => one.stage === stage);
  const done = own.filter(({ state }) => state === 'done' || state === 'skipped').length;
  const state = own.some((each) => each.state === 'stale') ? 'stale' : done === own.length ? 'done' : 'open';
  const next = own.find((each) => each.state === 'stale' || each.state === 'open') ?? own[0];
  return { key: stage, go: next?.one.key ?? '', name: stage, state, number, count: `${done}/${own.length}` };
}

/** The small drawing has room for so many: where a run has more, one merlon stands for several. */
const MOST_TINY = 40;
const tiny = computed<State[]>(() => {
  const each = Math.ceil(props.states.length / MOST_TINY) || 1;
  const chunks = Array.from({ length: Math.ceil(props.states.length / each) }, (_, index) =>
    props.states.slice(index * each, (index + 1) * each),
  );
  return chunks.map(
    (own) => (['stale', 'open', 'skipped', 'done'] as const).find((one) => own.includes(one)) ?? 'open',
  );
});

const WORDS: Record<State, string> = { open: 'to do', done: 'done', stale: 'to redo', skipped: 'skipped' };
const SIGNS: Record<State, string> = { open: '', done: '✓', stale: '↻', skipped: '–' };
</script>

<template>
  <ol v-if="small" class="battlement tiny" aria-hidden="true">
    <li v-for="(state, index) in tiny" :key="index" class="merlon" :class="state" />
  </ol>
  <nav v-else aria-label="Steps of the run">
    <ol ref="wall" class="battlement" :class="{ tight, named }">
      <li
        v-for="one in merlons"
        :key="one.key"
        :class="{ here: one.key === current, stage: one.count !== '' }"
      >
        <button
          type="button"
          class="merlon"
          :class="[one.state, { current: one.key === current }]"
          :aria-current="one.key === current ? 'step' : undefined"
          :title="tight ? one.name : undefined"
          @click="emit('choose', one.go)"
        >
          <span class="sign" aria-hidden="true">{{ one.count || SIGNS[one.state] || one.number }}</span>
          <span class="name">{{ one.name }}</span>
          <span class="visually-hidden">{{ WORDS[one.state] }}</span>
        </button>
      </li>
    </ol>
  </nav>
</template>

<style scoped lang="scss">
@use '@/styles/breakpoints' as at;

.battlement {
  display: flex;
  align-items: flex-end;
  gap: clamp(4px, 1.2vw, 14px);
  list-style: none;
  margin: 0;
  padding: 0 clamp(2px, 0.6vw, 7px);
  border-bottom: 10px solid var(--ink);
  min-height: 74px;
}
.battlement > li {
  flex: 1 1 0;
  min-width: 0;
}
.merlon {
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
.merlon.current {
  height: 64px;
  border-width: 4px;
  border-bottom: 0;
}
.merlon.done {
  background: var(--clean);
  color: var(--on-fill);
}
.merlon.stale {
  color: var(--ink);
  background: repeating-linear-gradient(-45deg, var(--ochre-wash) 0 9px, var(--sheet) 9px 15px);
}
.merlon.skipped {
  border-style: dashed;
  color: var(--grey);
}
.name {
  display: -webkit-box;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 2;
  line-clamp: 2;
  line-height: 1.1;
  overflow: hidden;
}
.tiny {
  min-height: 0;
  gap: min(4px, 1%);
  padding: 0 2px;
  border-bottom-width: 5px;
  max-width: 260px;
}
.tiny .merlon {
  flex: 1 1 0;
  min-width: 0;
  padding: 0;
  height: 18px;
  border-width: 1.5px;
  border-bottom: 0;
}
.tiny .stale {
  background: repeating-linear-gradient(-45deg, var(--ochre) 0 3px, var(--sheet) 3px 7px);
}
.tight {
  gap: 4px;
  overflow: auto hidden;
}
.tight > li {
  min-width: 44px;
}
.tight > .here {
  flex: 0 0 auto;
}
/* A stage is told by its name and how much of it is done. */
.tight > .stage {
  flex: 0 0 auto;
  min-width: 64px;
}
.tight > .stage .merlon {
  flex-direction: column;
  gap: 0;
  font-size: 0.875rem;
}
.tight:not(.named) > li:not(.stage) .merlon:not(.current) .name {
  position: absolute;
  width: 1px;
  height: 1px;
  clip-path: inset(50%);
}
@include at.lying {
  .battlement:not(.tiny) {
    min-height: 48px;
    border-bottom-width: 4px;
  }
  .battlement:not(.tiny) .merlon {
    height: 44px;
    border-width: 2px;
  }
}
/* A phone has the step's title right below. */
@include at.phone {
  .tight > .here {
    flex: 1 1 0;
  }
  .tight > li:not(.stage) .name {
    position: absolute;
    width: 1px;
    height: 1px;
    clip-path: inset(50%);
  }
}
</style>
