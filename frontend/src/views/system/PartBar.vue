<script setup lang="ts" generic="T extends string">
/** Which part of the system is being edited. */
defineProps<{ parts: { key: T; text: string; wrong: boolean }[] }>();
const part = defineModel<T>({ required: true });
</script>

<template>
  <nav class="parts" aria-label="Parts">
    <BButton
      v-for="one in parts"
      :key="one.key"
      :variant="one.key === part ? 'primary' : 'plain'"
      :aria-pressed="one.key === part"
      @click="part = one.key"
      >{{ one.text }}<span v-if="one.wrong" class="wrong"> · mend</span></BButton
    >
  </nav>
</template>

<style scoped>
.parts {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem;
}
</style>
