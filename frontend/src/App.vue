<script setup lang="ts">
import { onKeyStroke } from '@vueuse/core';
import { defineAsyncComponent, onScopeDispose, ref } from 'vue';
import AppBar from './components/AppBar.vue';
import AppNotices from './components/AppNotices.vue';
import { useHealth } from './composables/useConnection';
import { useDoor, watchTheDoor } from './composables/useDoor';
import { useIdleLock } from './composables/useIdleLock';
import { usePageTitle } from './composables/usePageTitle';
import { usePreferences } from './composables/usePreferences';
import { useProof } from './composables/useProof';
import { keepFocus } from './support/focus';
import { isDialogOpen, isTyping } from './support/keys';
// At hand without a connection: a device locks itself there as well.
import LockScreen from './views/doors/LockScreen.vue';

const ProveDialog = defineAsyncComponent(() => import('./views/doors/ProveDialog.vue'));
const CalculatorDialog = defineAsyncComponent(() => import('./components/CalculatorDialog.vue'));
const KeyHelp = defineAsyncComponent(() => import('./components/KeyHelp.vue'));

useHealth();
onScopeDispose(keepFocus());
watchTheDoor();
useIdleLock();
usePageTitle();
const preferences = usePreferences();
const { away } = useDoor();
const { asked } = useProof();
const helpOpen = ref(false);
const calculatorOpen = ref(false);
onKeyStroke('=', (event) => {
  if (isTyping(event) || isDialogOpen() || away.value || !preferences.value.letterKeys) return;
  event.preventDefault();
  calculatorOpen.value = true;
});
onKeyStroke('?', (event) => {
  if (isTyping(event) || !preferences.value.letterKeys) return;
  event.preventDefault();
  helpOpen.value = true;
});
</script>

<template>
  <a class="visually-hidden-focusable position-absolute p-2" href="#main">Skip to the page</a>
  <!-- Behind a lock the screens stay as they are, unseen and out of reach. -->
  <main v-if="away" class="page pt-3"><LockScreen /></main>
  <div v-show="!away" :inert="away">
    <AppBar @help="helpOpen = true" @calculator="calculatorOpen = true" />
    <AppNotices />
    <main id="main" class="page" tabindex="-1">
      <RouterView />
    </main>
  </div>
  <ProveDialog v-if="asked && !away" />
  <CalculatorDialog v-if="calculatorOpen && !away" v-model="calculatorOpen" />
  <KeyHelp v-if="helpOpen && !away" v-model="helpOpen" />
</template>

<style scoped>
.page {
  max-width: 1320px;
  margin: 0 auto;
  padding: 0 1rem 2rem;
}
</style>
