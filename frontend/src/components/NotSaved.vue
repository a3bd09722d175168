<script setup lang="ts">
/** What is wrong with a field, in a sentence, and that it isn't saved. */
import { computed } from 'vue';

const props = defineProps<{ problem: string }>();
const sentence = computed(() => props.problem.replace(/\.?$/, '.'));
</script>

<template>
  <span class="said-clipped">{{ sentence }} Not saved.</span>
</template>
