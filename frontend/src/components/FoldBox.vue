<script setup lang="ts">
/** Something to open when it is wanted. */
defineProps<{ title: string; open?: boolean }>();
</script>

<template>
  <details :open="open">
    <summary>{{ title }}</summary>
    <slot />
  </details>
</template>

<style scoped>
summary {
  min-height: 44px;
  display: flex;
  align-items: center;
  font-weight: 600;
  cursor: pointer;
}
summary::before {
  content: '▸';
  width: 1.2em;
}
details[open] > summary::before {
  content: '▾';
}
</style>
