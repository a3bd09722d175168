<script setup lang="ts">
import type { Finding } from '@/api/client';
import { useJobId } from '@/composables/useJob';
import NoteBox from './NoteBox.vue';

const props = defineProps<{
  findings: readonly Finding[];
  /** What the paths are called, where it has to be said which of them a finding is about. */
  names?: ReadonlyMap<string, string>;
}>();
const WORDS: Record<Finding['severity'], string> = { stop: 'Stop', risk: 'Risk', note: 'Note' };
const KINDS: Record<Finding['severity'], 'clipped' | 'edge' | 'plain'> = {
  stop: 'clipped',
  risk: 'edge',
  note: 'plain',
};
/** The paths it holds for, unless its title names them or it holds for all. */
function where(one: Finding): string {
  if (!props.names || !one.paths?.length || one.paths.length === props.names.size) return '';
  const called = one.paths.map((path) => props.names?.get(path) ?? path);
  if (called.every((name) => one.title.includes(name))) return '';
  return called.length > 3
    ? `${called.slice(0, 3).join(', ')} and ${called.length - 3} more: `
    : `${called.join(', ')}: `;
}
const job = useJobId();
/** Where on the System screen it is put right. */
const placeOf = (one: Finding) => ({
  name: 'system',
  params: { id: job?.value ?? '' },
  query: { ...(one.paths?.[0] ? { path: one.paths[0] } : {}), part: one.part },
});
const end = (title: string) => (title.endsWith('?') ? '' : '.');
</script>

<template>
  <ul v-if="findings.length" class="list-unstyled m-0">
    <li v-for="one in findings" :key="one.key">
      <NoteBox :kind="KINDS[one.severity]" class="finding">
        <strong>{{ WORDS[one.severity] }}: {{ where(one) }}{{ one.title }}{{ end(one.title) }}</strong>
        {{ one.reason }} {{ one.remedy }}
        <RouterLink v-if="job && one.part" class="tap" :to="placeOf(one)">Open in System</RouterLink>
        <details v-if="one.consequences?.length" class="follows">
          <summary>Consequences: {{ one.consequences.length }}</summary>
          <p v-for="next in one.consequences" :key="next.key" class="mb-1">
            <strong>{{ next.title }}{{ end(next.title) }}</strong> {{ next.reason }}
          </p>
        </details>
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
.follows summary {
  min-height: 44px;
  display: flex;
  align-items: center;
  cursor: pointer;
  font-weight: 600;
}
.follows summary::before {
  content: '▸';
  width: 1.2em;
}
.follows[open] > summary::before {
  content: '▾';
}
</style>
