<script setup lang="ts">
/** A plug seen from its front: a pin a field, with the wire's colour in words and what it was found to be. */
import type { Result } from '@/api/client';
import { roleInWords } from '@/support/wires';

defineProps<{ plug: Result['plugs'][number] }>();
</script>

<template>
  <figure class="plug">
    <figcaption class="fw-bold">Plug {{ plug.name }}</figcaption>
    <ol>
      <li v-for="found in plug.wires" :key="found.wire.id" :class="{ open: !found.sentence }">
        <strong class="digits">{{ found.wire.pin }}</strong> {{ found.wire.colour }}
        <span class="d-block">{{ found.wire.speaker || roleInWords(found.wire.role) }}</span>
        <span v-if="found.sentence" class="d-block fw-bold">{{ found.sentence }}</span>
        <span v-else class="quiet d-block">not measured</span>
      </li>
    </ol>
  </figure>
</template>

<style scoped>
.plug {
  break-inside: avoid;
  margin: 0 0 0.8rem;
}
.plug ol {
  list-style: none;
  margin: 0.2rem 0 0;
  padding: 0.3rem;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(9.5rem, 1fr));
  gap: 0.3rem;
  border: 3px solid var(--ink);
  border-radius: 4px;
}
.plug li {
  border: 1px solid var(--ink);
  padding: 0.2rem 0.4rem;
  font-size: 0.95rem;
}
.plug li.open {
  border-style: dashed;
}
</style>
