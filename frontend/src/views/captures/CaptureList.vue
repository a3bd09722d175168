<script setup lang="ts">
import type { CaptureEntry } from '@/api/client';
import LetGo from '@/components/LetGo.vue';
import VerdictMark from '@/components/VerdictMark.vue';
import { useConnection } from '@/composables/useConnection';
import type { Sending } from '@/composables/useCaptures';
import { retry } from '@/composables/useOutbox';
import { whenInWords } from '@/support/words';

defineProps<{
  captures: readonly CaptureEntry[];
  sending: readonly Sending[];
  chosen: string | null;
  job: string;
}>();

const { health } = useConnection();

function words(entry: Sending): string {
  // Only what the device has really kept outlasts a reload.
  if (!entry.ready) return 'Saving on this device …';
  if (entry.share === 0)
    return entry.fleeting ? 'Waits in this tab.' : 'Waits on this device until the server is there.';
  if (entry.share < 1) return `${Math.round(100 * entry.share)} % sent`;
  const queue = health.value?.judging ?? 0;
  return queue > 1 ? `Analysing …, one of ${queue} in the queue` : 'Analysing …';
}
</script>

<template>
  <ul class="list" aria-label="Captures of this job">
    <li v-for="entry in sending" :key="entry.key" class="sheet waiting">
      <strong>{{ entry.told.name }}</strong>
      <template v-if="entry.refused">
        <p class="said-clipped m-0" role="alert">{{ entry.refused.sentence }}</p>
        <div class="d-flex gap-2">
          <BButton size="sm" variant="primary" @click="retry(entry.key)">Try again</BButton>
          <LetGo :entry="entry.key" />
        </div>
      </template>
      <template v-else>
        <progress :value="entry.share" max="1" :aria-label="`Sending ${entry.told.name}`" />
        <span class="quiet">{{ words(entry) }}</span>
        <LetGo :entry="entry.key" words="Cancel" really="Really cancel" class="justify-self-start" />
        <span v-if="entry.fleeting" class="said-edge">
          This device couldn’t keep the file: it is only in this tab. Don’t close it until it is sent.
        </span>
      </template>
    </li>
    <li v-for="capture in captures" :key="capture.id">
      <RouterLink
        class="sheet entry"
        :class="{ here: capture.id === chosen, struck: capture.struck }"
        :aria-current="capture.id === chosen ? 'true' : undefined"
        :to="{ name: 'captures', params: { id: job, capture: capture.id } }"
      >
        <strong class="name">{{ capture.name }}</strong>
        <span class="digits came"
          ><VerdictMark v-if="capture.verdict" :verdict="capture.verdict" bare />{{ capture.headline }}</span
        >
        <small v-if="capture.same_as" class="said-edge">The same file as “{{ capture.same_as }}”</small>
        <small class="quiet"
          >{{ whenInWords(capture.taken_at)
          }}{{ capture.struck ? `, struck out: ${capture.struck}` : '' }}</small
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
.came {
  display: flex;
  align-items: center;
  gap: 0.4em;
}
progress {
  width: 100%;
  accent-color: var(--clean);
}
</style>
