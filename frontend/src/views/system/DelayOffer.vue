<script setup lang="ts">
/** The delays that align every speaker with the farthest one, from their distances to the seat. */
import { computed } from 'vue';
import type { DelayProposal } from '@/api/client';
import { speakerDelays } from '@/support/delays';

const props = defineProps<{
  delay: DelayProposal;
  /** Whether it is that of the sheet before its last change. */
  behind: boolean;
}>();
const emit = defineEmits<{ align: [] }>();
const lines = computed(() => speakerDelays(props.delay));
</script>

<template>
  <div class="offer">
    <p class="mb-1">
      <strong>{{ delay.settled ? 'Delays are aligned:' : 'Aligned with the farthest speaker:' }}</strong>
      {{ lines.join('; ') }}.
    </p>
    <BButton v-if="!delay.settled" variant="plain" :aria-disabled="behind" @click="emit('align')"
      >Apply these delays to all paths</BButton
    >
  </div>
</template>

<style scoped>
.offer {
  margin-bottom: 0.6rem;
}
</style>
