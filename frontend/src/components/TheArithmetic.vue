<script setup lang="ts">
defineProps<{ lines: readonly string[]; title: string; open?: boolean }>();
</script>

<template>
  <details :open="open">
    <summary>{{ title }}</summary>
    <ol class="digits">
      <li v-for="line in lines" :key="line">{{ line }}</li>
    </ol>
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
details[open] summary::before {
  content: '▾';
}
ol {
  margin: 0;
  padding-left: 1.9rem;
}
li {
  padding: 0.1rem 0;
}
</style>
