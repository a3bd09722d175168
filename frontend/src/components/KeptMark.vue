<script setup lang="ts">
/** On every page: how much waits on this device, and what the server wouldn't have. */
import { useIntervalFn } from '@vueuse/core';
import { computed, defineAsyncComponent, ref } from 'vue';
import { refusedAnywhere, waitingAnywhere } from '@/composables/useOutbox';
import { jobsWithDrafts } from '@/support/drafts';
import { onlyHere } from '@/support/onlyHere';
import { currentPerson } from '@/support/person';
import { useLasting } from '@/composables/useLasting';

// Only fetched when it is wanted, as all dialogs that a page can do without at first.
const KeptDialog = defineAsyncComponent(() => import('./KeptDialog.vue'));
const LOOK_EVERY_MS = 15_000;
const open = ref(false);
const waiting = useLasting(() => waitingAnywhere.value.filter((entry) => !entry.sent).length);
const refused = computed(() => refusedAnywhere.value.length);
/** Jobs with an edit that a closed tab left unsaved. */
const drafts = ref<string[]>([]);
useIntervalFn(async () => (drafts.value = await jobsWithDrafts(currentPerson.value)), LOOK_EVERY_MS, {
  immediateCallback: true,
});
const words = computed(() =>
  [
    refused.value && `${refused.value} rejected`,
    waiting.value && `${waiting.value} waiting`,
    drafts.value.length && `${drafts.value.length} unsaved`,
    onlyHere.value && `${onlyHere.value} only in this tab`,
  ]
    .filter(Boolean)
    .join(', '),
);
</script>

<template>
  <BButton
    v-if="words"
    variant="plain"
    class="mark"
    :class="refused || onlyHere ? 'said-clipped' : 'said-edge'"
    @click="open = true"
  >
    {{ words }}
  </BButton>
  <span class="visually-hidden" role="status">
    {{ refused ? `${refused} rejected by the server.` : '' }}
    {{ onlyHere ? 'The device could not keep everything: don’t close this tab.' : '' }}
  </span>
  <KeptDialog v-if="open" v-model="open" :drafts="drafts" />
</template>

<style scoped>
.mark {
  font-weight: 700;
  font-size: 0.9rem;
  white-space: nowrap;
}
</style>
