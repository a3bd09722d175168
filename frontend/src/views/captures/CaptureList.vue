<script setup lang="ts">
import type { CaptureEntry } from '@/api/client';
import type { Sending } from '@/composables/useCaptures';
import { whenInWords } from '@/support/words';

defineProps<{
  captures: readonly CaptureEntry[];
  sending: readonly Sending[];
  chosen: string | null;
  job: string;
}>();
const emit = defineEmits<{ retry: [id: string]; dismiss: [id: string] }>();
</script>

<template>
  <ul class="list" aria-label="Captures of this job">
    <li v-for="one in sending" :key="one.told.id" class="sheet waiting" role="status">
      <strong>{{ one.told.name }}</strong>
      <template v-if="one.sentence">
        <p class="said-clipped m-0">{{ one.sentence }}</p>
        <div class="d-flex gap-2">
          <BButton v-if="one.passing" size="sm" variant="primary" @click="emit('retry', one.told.id)">
            Try again
          </BButton>
          <BButton size="sm" variant="plain" @click="emit('dismiss', one.told.id)">Seen</BButton>
        </div>
      </template>
      <template v-else>
        <progress :value="one.share" max="1" :aria-label="`Sending ${one.told.name}`" />
        <span class="quiet">{{ one.share < 1 ? `${Math.round(100 * one.share)} % sent` : 'Judging …' }}</span>
      </template>
    </li>
    <li v-for="one in captures" :key="one.id">
      <RouterLink
        class="sheet entry"
        :class="{ here: one.id === chosen, struck: one.struck }"
        :aria-current="one.id === chosen ? 'true' : undefined"
        :to="{ name: 'captures', params: { id: job, capture: one.id } }"
      >
        <strong class="name">{{ one.name }}</strong>
        <span class="digits">{{ one.headline }}</span>
        <small class="quiet"
          >{{ whenInWords(one.taken_at) }}{{ one.struck ? `, struck out: ${one.struck}` : '' }}</small
        >
      </RouterLink>
    </li>
  </ul>
</template>

<style scoped>
.list {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 0.5rem;
}
.waiting,
.entry {
  display: grid;
  gap: 0.2rem;
  padding: 0.7rem 1rem;
}
.entry {
  color: var(--ink);
  text-decoration: none;
  border-left-width: 6px;
}
.entry:hover {
  background: var(--stone);
}
.here {
  border-left-color: var(--ink);
}
.struck .name,
.struck .digits {
  text-decoration: line-through;
}
.name {
  overflow-wrap: anywhere;
}
progress {
  width: 100%;
  accent-color: var(--clean);
}
</style>
