<script setup lang="ts">
import { onKeyStroke } from '@vueuse/core';
import { ref } from 'vue';
import AppBar from './components/AppBar.vue';
import KeyHelp from './components/KeyHelp.vue';
import { useHealth } from './composables/useConnection';
import { isTyping } from './support/keys';

useHealth();
const helpOpen = ref(false);
onKeyStroke('?', (event) => {
  if (isTyping(event)) return;
  event.preventDefault();
  helpOpen.value = true;
});
</script>

<template>
  <a class="visually-hidden-focusable position-absolute p-2" href="#main">Skip to the page</a>
  <AppBar @help="helpOpen = true" />
  <main id="main" class="page" tabindex="-1">
    <RouterView />
  </main>
  <KeyHelp v-model="helpOpen" />
</template>

<style scoped>
.page {
  max-width: 1320px;
  margin: 0 auto;
  padding: 0 1rem 2rem;
}
</style>
