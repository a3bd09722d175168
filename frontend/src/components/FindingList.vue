<script setup lang="ts">
import type { Finding } from '@/api/client';
import NoteBox from './NoteBox.vue';

defineProps<{ findings: readonly Finding[] }>();
const WORDS: Record<Finding['severity'], string> = { stop: 'Stop', risk: 'Risk', note: 'Note' };
const KINDS: Record<Finding['severity'], 'clipped' | 'edge' | 'plain'> = {
  stop: 'clipped',
  risk: 'edge',
  note: 'plain',
};
</script>

<template>
  <ul v-if="findings.length" class="list-unstyled m-0">
    <li v-for="one in findings" :key="one.key">
      <NoteBox :kind="KINDS[one.severity]" class="finding">
        <strong>{{ WORDS[one.severity] }}: {{ one.title }}.</strong> {{ one.reason }} {{ one.remedy }}
      </NoteBox>
    </li>
  </ul>
</template>

<style scoped>
.finding {
  margin-bottom: 0.5rem;
  font-weight: 400;
}
.finding.plain {
  background: var(--sheet);
}
</style>
