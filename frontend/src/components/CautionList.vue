<script setup lang="ts">
defineProps<{ cautions: readonly { key: string; text: string }[] }>();
</script>

<template>
  <ul v-if="cautions.length" class="cautions" aria-label="Cautions">
    <li v-for="one in cautions" :key="one.key">{{ one.text }}</li>
  </ul>
</template>

<style scoped>
.cautions {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 0.4rem;
}
.cautions li {
  padding: 0.4rem 0.7rem;
  border-left: 6px solid var(--brick);
  background: var(--brick-wash);
}
</style>
