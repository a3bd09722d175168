<script setup lang="ts">
/** What to know before a wire is touched: causes with what follows from them, the gravest first, notes folded. */
import { computed } from 'vue';
import type { Finding, PathPlan } from '@/api/client';
import FoldBox from '@/components/FoldBox.vue';
import FindingList from '@/components/FindingList.vue';

const props = defineProps<{
  causes: readonly Finding[];
  paths: readonly Pick<PathPlan, 'path' | 'name'>[];
}>();
const grave = computed(() => props.causes.filter((cause) => cause.severity !== 'note'));
const notes = computed(() => props.causes.filter((cause) => cause.severity === 'note'));
const names = computed(() => new Map(props.paths.map((path) => [path.path, path.name])));
</script>

<template>
  <section v-if="causes.length" aria-label="Findings">
    <FindingList :findings="grave" :names="names" />
    <FoldBox
      v-if="notes.length"
      :title="notes.length === 1 ? 'One note' : `${notes.length} notes`"
      :open="!grave.length && notes.length < 3"
    >
      <FindingList :findings="notes" :names="names" />
    </FoldBox>
  </section>
</template>
