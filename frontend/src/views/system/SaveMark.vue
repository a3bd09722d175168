<script setup lang="ts">
import type { SaveState } from '@/composables/useSheetEditor';

defineProps<{
  state: SaveState;
  /** What was undone or done again last; it stands where nothing is left to save. */
  turned: string;
}>();
const WORDS: Record<SaveState, string> = {
  saved: 'All saved',
  saving: 'Saving …',
  waiting: 'Kept on this device until the server is reachable',
  refused: 'Not saved yet: correct what is marked',
  conflict: 'Changed elsewhere: choose a version',
};
</script>

<template>
  <span
    role="status"
    :class="{
      quiet: state === 'saved' || state === 'saving',
      'said-clipped': state !== 'saved' && state !== 'saving',
    }"
  >
    {{ state === 'saved' && turned ? turned : WORDS[state] }}
  </span>
</template>
