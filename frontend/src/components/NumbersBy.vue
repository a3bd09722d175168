<script setup lang="ts">
/** Volume numbers side by side: by way of playing, tone, kind of output. Nothing where there is nothing to tell apart. */
defineProps<{ title: string; numbers: readonly { of: string; volume: number }[] | undefined }>();
</script>

<template>
  <p v-if="numbers?.length" class="mb-0">
    {{ title }}:
    <template v-for="(number, index) in numbers" :key="number.of"
      >{{ index ? ', ' : '' }}{{ number.of }} <strong class="digits">{{ number.volume }}</strong></template
    >.
  </p>
</template>
