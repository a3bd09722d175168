<script setup lang="ts">
import InfoDialog from './InfoDialog.vue';
import { KEYS } from '@/support/keys';

const open = defineModel<boolean>({ required: true });
</script>

<template>
  <InfoDialog v-model="open" title="Keys">
    <p class="quiet">In the run everything works without a mouse.</p>
    <dl class="keys" tabindex="0" aria-label="Keys">
      <template v-for="one in KEYS" :key="one.key">
        <dt>
          <kbd>{{ one.key }}</kbd>
        </dt>
        <dd>{{ one.does }}</dd>
      </template>
    </dl>
  </InfoDialog>
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
