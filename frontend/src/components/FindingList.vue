<script setup lang="ts">
import type { Finding } from '@/api/client';

defineProps<{ findings: readonly Finding[] }>();
const WORDS: Record<Finding['severity'], string> = { stop: 'Stop', risk: 'Risk', note: 'Note' };
</script>

<template>
  <ul v-if="findings.length" class="findings">
    <li v-for="one in findings" :key="one.key" :class="one.severity">
      <strong>{{ WORDS[one.severity] }}: {{ one.title }}.</strong> {{ one.reason }} {{ one.remedy }}
    </li>
  </ul>
</template>

<style scoped>
.findings {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 0.5rem;
}
li {
  padding: 0.5rem 0.8rem;
  border-left: 6px solid var(--grey);
  background: var(--sheet);
}
.stop {
  border-color: var(--brick);
  background: var(--brick-wash);
}
.risk {
  border-color: var(--ochre);
  background: var(--ochre-wash);
}
</style>
