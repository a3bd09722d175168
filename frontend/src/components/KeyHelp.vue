<script setup lang="ts">
import { onKeyStroke } from '@vueuse/core';
import { KEYS } from '@/support/keys';

const open = defineModel<boolean>({ required: true });
// The dialog itself hears Escape only once it has the focus.
onKeyStroke('Escape', () => (open.value = false));
</script>

<template>
  <BModal
    v-model="open"
    title="Keys"
    title-tag="h2"
    ok-only
    ok-title="Close"
    ok-variant="plain"
    no-animation
    scrollable
  >
    <p class="quiet">In the run everything works without a mouse.</p>
    <dl class="keys">
      <template v-for="one in KEYS" :key="one.key">
        <dt>
          <kbd>{{ one.key }}</kbd>
        </dt>
        <dd>{{ one.does }}</dd>
      </template>
    </dl>
  </BModal>
</template>

<style scoped>
.keys {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 0.45rem 1rem;
  margin: 0;
}
.keys dd {
  margin: 0;
}
</style>
