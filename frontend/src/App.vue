<script setup lang="ts">
import { onKeyStroke } from '@vueuse/core';
import { defineAsyncComponent, ref } from 'vue';
import AppBar from './components/AppBar.vue';
import AppNotices from './components/AppNotices.vue';
import { useHealth } from './composables/useConnection';
import { usePreferences } from './composables/usePreferences';
import { isTyping } from './support/keys';

const KeyHelp = defineAsyncComponent(() => import('./components/KeyHelp.vue'));

useHealth();
const preferences = usePreferences();
const helpOpen = ref(false);
onKeyStroke('?', (event) => {
  if (isTyping(event) || !preferences.value.letterKeys) return;
  event.preventDefault();
  helpOpen.value = true;
});
</script>

<template>
  <a class="visually-hidden-focusable position-absolute p-2" href="#main">Skip to the page</a>
  <AppBar @help="helpOpen = true" />
  <AppNotices />
  <main id="main" class="page" tabindex="-1">
    <RouterView />
  </main>
  <KeyHelp v-if="helpOpen" v-model="helpOpen" />
</template>

<style scoped>
.page {
  max-width: 1320px;
  margin: 0 auto;
  padding: 0 1rem 2rem;
}
</style>
