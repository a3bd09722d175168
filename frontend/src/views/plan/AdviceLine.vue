<script setup lang="ts">
import type { Advice } from '@/api/client';
import TheArithmetic from '@/components/TheArithmetic.vue';

defineProps<{ advice: Advice; title: string }>();
</script>

<template>
  <p class="mb-1" :class="{ 'fw-bold': !advice.settled }">{{ advice.sentence }}</p>
  <TheArithmetic v-if="advice.because?.length" :lines="advice.because" :title="title" />
</template>
