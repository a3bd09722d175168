<script setup lang="ts">
/** Figures that a target rests on and that nobody has confirmed, each with the way to its field. */
import type { Step } from '@/api/client';
import { useJob } from '@/composables/useJob';

defineProps<{ values: NonNullable<NonNullable<Step['target']>['not_confirmed']> }>();
const { id } = useJob();
</script>

<template>
  <p class="said-edge mb-1" role="note">
    <strong>Not confirmed:</strong>
    <template v-for="(value, index) in values" :key="value.place"
      >{{ index ? '; ' : ' '
      }}<RouterLink class="tap" :to="{ name: 'system', params: { id }, query: { field: value.place } }">{{
        value.words
      }}</RouterLink></template
    >
  </p>
</template>
