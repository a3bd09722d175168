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
function where(finding: Finding): string {
  if (!props.names || !finding.paths?.length || finding.paths.length === props.names.size) return '';
  const called = finding.paths.map((path) => props.names?.get(path) ?? path);
  if (called.every((name) => finding.title.includes(name))) return '';
  return called.length > 3
    ? `${called.slice(0, 3).join(', ')} and ${called.length - 3} more: `
    : `${called.join(', ')}: `;
}
const job = useJobId();
/** Where on the System screen it is put right. */
const placeOf = (finding: Finding) => ({
  name: 'system',
  params: { id: job?.value ?? '' },
  query: { ...(finding.paths?.[0] ? { path: finding.paths[0] } : {}), part: finding.part },
});
const end = (title: string) => (title.endsWith('?') ? '' : '.');
</script>

<template>
  <ul v-if="findings.length" class="list-unstyled m-0">
    <li v-for="finding in findings" :key="finding.key">
      <NoteBox :kind="KINDS[finding.severity]" class="finding">
        <strong
          >{{ WORDS[finding.severity] }}: {{ where(finding) }}{{ finding.title
          }}{{ end(finding.title) }}</strong
        >
        {{ finding.reason }} {{ finding.remedy }}
        <RouterLink v-if="job && finding.part" class="tap" :to="placeOf(finding)">Open in System</RouterLink>
        <details v-if="finding.consequences?.length" class="follows">
          <summary>Consequences: {{ finding.consequences.length }}</summary>
          <p v-for="next in finding.consequences" :key="next.key" class="mb-1">
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
