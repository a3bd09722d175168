<script setup lang="ts">
/** What a change has spoiled at the open step, what that does, and what has to be done before it. */
import { computed } from 'vue';
import type { RunView, StepState } from '@/api/client';
import NoteBox from '@/components/NoteBox.vue';

const props = defineProps<{ run: RunView['run']; state: StepState }>();
const emit = defineEmits<{ choose: [step: string] }>();
const titles = computed(() => new Map(props.run.steps.map((step) => [step.key, step.name])));
const outdated = computed(
  () => new Set(props.run.states.filter((state) => state.state === 'outdated').map((state) => state.step)),
);
/** A step before this one that a change has spoiled: when it agrees again, this one may stand. */
const first = computed(() => {
  const before = props.run.redo.find((redo) => redo.step === props.state.step)?.waits_for;
  return before && outdated.value.has(before) ? before : null;
});
</script>

<template>
  <NoteBox v-if="state.spoiled?.length" kind="edge">
    <span v-for="spoiled in state.spoiled" :key="spoiled.place" class="d-block">
      To redo: {{ spoiled.label }}: {{ spoiled.was }} → {{ spoiled.now }}. {{ spoiled.remedy }}
    </span>
    <span v-if="state.effect" class="d-block" :class="{ 'said-clipped': state.effect.risk === 'unsafe' }">
      {{ state.effect.sentence }}
    </span>
  </NoteBox>
  <NoteBox v-if="first" kind="edge">
    First
    <BButton size="sm" variant="plain" @click="emit('choose', first)">{{ titles.get(first) }}</BButton>
    : if the new reading agrees with the old one, this step needs no repeat.
  </NoteBox>
</template>
