<script setup lang="ts">
import NoteBox from './NoteBox.vue';

defineProps<{ cautions: readonly { key: string; text: string }[] }>();
</script>

<template>
  <ul v-if="cautions.length" class="list-unstyled m-0" aria-label="Cautions">
    <li v-for="one in cautions" :key="one.key">
      <NoteBox kind="clipped" class="caution">{{ one.text }}</NoteBox>
    </li>
  </ul>
</template>

<style scoped>
.caution {
  margin-bottom: 0.4rem;
  font-weight: 400;
}
</style>
