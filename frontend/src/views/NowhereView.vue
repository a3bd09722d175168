<script setup lang="ts">
import { useHeading } from '@/composables/useHeading';

useHeading();
</script>

<template>
  <section class="sheet mt-3">
    <h1 ref="heading" tabindex="-1">Nothing here</h1>
    <p>
      This address belongs to no page.
      <RouterLink class="tap" :to="{ name: 'jobs' }">Go to the jobs.</RouterLink>
    </p>
  </section>
</template>
