<script setup lang="ts">
/** One thing that the calculator works out: its fields, and the answer or why there is none. */
defineProps<{ title: string; trouble: string }>();
</script>

<template>
  <section :aria-label="title">
    <h3 class="h6 mt-2 mb-1">{{ title }}</h3>
    <slot name="hint" />
    <div class="fields"><slot /></div>
    <p v-if="trouble" class="said-clipped" role="alert">{{ trouble }}</p>
    <p v-else-if="$slots.answer" class="answer" role="status"><slot name="answer" /></p>
  </section>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(8rem, 1fr));
  gap: 0 0.8rem;
}
.answer {
  font-size: 1.2rem;
  margin-bottom: 0.3rem;
}
</style>
