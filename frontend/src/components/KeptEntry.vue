<script setup lang="ts">
/** One thing that waits or was refused: what, at which step of which vehicle, when; then what is said and done about it. */
import type { Entry } from '@/outbox/entry';
import { stepOf, whatOf } from '@/outbox/table';
import { whenInWords } from '@/support/words';

defineProps<{ entry: Entry }>();
</script>

<template>
  <li class="entry">
    <strong class="digits">{{ whatOf(entry) }}</strong>
    <span>
      {{ stepOf(entry) }}<span v-if="entry.about?.vehicle" class="quiet"> · {{ entry.about.vehicle }}</span>
    </span>
    <span class="quiet">{{ whenInWords(new Date(entry.at).toISOString()) }}</span>
    <slot />
  </li>
</template>

<style scoped lang="scss">
@use '@/styles/breakpoints' as at;

.entry {
  display: grid;
  grid-template-columns: minmax(7rem, max-content) 1fr max-content;
  gap: 0.2rem 1rem;
  padding: 0.5rem 0;
  border-top: 1px solid var(--line);
}
@include at.phone {
  .entry {
    grid-template-columns: 1fr;
  }
}
</style>
