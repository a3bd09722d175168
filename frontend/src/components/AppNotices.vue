<script setup lang="ts">
/** What the app as a whole has to say: a new version, a wrong clock, a full disk, a browser that keeps nothing. */
import { useRegisterSW } from 'virtual:pwa-register/vue';
import { computed } from 'vue';
import { useConnection } from '@/composables/useConnection';
import { keepsThings } from '@/support/device';
import NoteBox from './NoteBox.vue';

const { health, clock } = useConnection();
const { needRefresh, updateServiceWorker } = useRegisterSW();
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
  <aside v-if="said.length || needRefresh" class="notices no-print" aria-label="Notices">
    <NoteBox v-for="one in said" :key="one" kind="edge" role="status">{{ one }}</NoteBox>
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
