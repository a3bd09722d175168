<script setup lang="ts">
import FoldBox from './FoldBox.vue';

defineProps<{ lines: readonly string[]; title: string; open?: boolean }>();
</script>

<template>
  <FoldBox :title="title" :open="open">
    <ol class="digits">
      <li v-for="line in lines" :key="line">{{ line }}</li>
    </ol>
  </FoldBox>
</template>

<style scoped>
ol {
  margin: 0;
  padding-left: 1.9rem;
}
li {
  padding: 0.1rem 0;
}
</style>
