<script setup lang="ts">
/** Notices of the whole app: a new version, a wrong clock, a full disk, a page that failed to load, a browser without storage. */
import { useRegisterSW } from 'virtual:pwa-register/vue';
import { computed } from 'vue';
import { useConnection } from '@/composables/useConnection';
import { useFailedPage } from '@/composables/useFailedPage';
import { useWaysIn } from '@/composables/useWaysIn';
import { keepsThings } from '@/support/device';
import NoteBox from './NoteBox.vue';
import WaysIn from './WaysIn.vue';

const { health, clock } = useConnection();
const { needRefresh, updateServiceWorker } = useRegisterSW();
const { acts, trouble, seen } = useWaysIn();
const { failed, again } = useFailedPage();
const said = computed(() =>
  [
    keepsThings
      ? ''
      : 'This browser can’t store data for this page. Unsent work is lost when the page is closed. Allow site data in the browser’s settings.',
    health.value?.warning ?? '',
    clock.value,
  ].filter(Boolean),
);
</script>

<template>
  <aside
    v-if="said.length || failed || needRefresh || acts.length"
    class="notices no-print"
    aria-label="Notices"
  >
    <NoteBox v-for="notice in said" :key="notice" kind="edge" role="status">{{ notice }}</NoteBox>
    <WaysIn v-if="acts.length" :acts="acts" :trouble="trouble" @seen="seen" />
    <NoteBox v-if="failed" kind="clipped" role="alert">
      {{ failed.meta.title ? `“${failed.meta.title}”` : 'The page' }} could not be loaded. Check the
      connection.
      <BButton size="sm" variant="plain" @click="again">Try again</BButton>
    </NoteBox>
    <NoteBox v-if="needRefresh" kind="plain" role="status">
      A new version of the app is here.
      <BButton size="sm" variant="plain" @click="updateServiceWorker()">Change to it now</BButton>
    </NoteBox>
  </aside>
</template>

<style scoped>
.notices {
  max-width: 1320px;
  margin: 0 auto;
  padding: 0 1rem;
}
</style>
