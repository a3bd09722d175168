<script setup lang="ts">
/** What can hurt here, above what it is about: one box, a line for each. */
defineProps<{ cautions: readonly { key: string; text: string }[] }>();
</script>

<template>
  <ul v-if="cautions.length" class="cautions" aria-label="Cautions">
    <li v-for="caution in cautions" :key="caution.key">{{ caution.text }}</li>
  </ul>
</template>

<style scoped>
.cautions {
  margin: 0 0 0.5rem;
  padding: 0.3rem 0.8rem 0.3rem 1.6rem;
  border-left: 6px solid var(--brick);
  background: var(--brick-wash);
  line-height: 1.3;
}
</style>
