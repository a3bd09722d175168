<script setup lang="ts">
/** Every path in a line of its own: the figures to take to the car, and the way to each path's sheet. */
import type { Finding, PathPlan } from '@/api/client';
import { formatNumber } from '@/support/quantity';

defineProps<{ paths: readonly PathPlan[] }>();

/** The findings that are more than notes, the gravest first. */
const grave = (path: PathPlan): Finding[] => path.findings.filter((one) => one.severity !== 'note');

function told(path: PathPlan): string {
  const [first, ...more] = grave(path);
  return first ? first.title + (more.length ? `, and ${more.length} more` : '') : '';
}
</script>

<template>
  <nav class="sheet mb-3" aria-label="Paths">
    <ul>
      <li v-for="path in paths" :key="path.path">
        <a :href="`#path-${path.path}`">{{ path.name }}</a>
        <strong class="digits">{{ formatNumber(path.target.value) }} V</strong>
        <span class="digits">{{ path.play }}</span>
        <span :class="grave(path)[0]?.severity === 'stop' ? 'said-clipped' : 'said-edge'">{{
          told(path)
        }}</span>
      </li>
    </ul>
  </nav>
</template>

<style scoped lang="scss">
@use '@/styles/breakpoints' as at;

ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: minmax(0, 13rem) 7rem 13rem minmax(0, 1fr);
  gap: 0 1.5rem;
  align-items: baseline;
  padding: 0.3rem 0;
}
li + li {
  border-top: 1px solid var(--line);
}
a {
  padding: 0.35rem 0;
  overflow-wrap: anywhere;
}
strong {
  font-size: 1.35rem;
  text-align: right;
}
@include at.narrow {
  li {
    grid-template-columns: minmax(0, 1fr) 7rem;
  }
  span {
    grid-column: 1 / -1;
  }
}
</style>
