<script setup lang="ts">
import { computed } from 'vue';
import type { SaveState } from '@/composables/useSheetEditor';

const props = defineProps<{
  state: SaveState;
  /** Whether the device has kept what the server hasn't yet. */
  kept: boolean;
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
const words = computed(() => {
  if (props.state === 'saved' && props.turned) return props.turned;
  if (props.kept || props.state === 'saved' || props.state === 'saving') return WORDS[props.state];
  const why = props.state === 'waiting' ? '' : `${WORDS[props.state]}. `;
  return `${why}Only in this tab: don’t close it`;
});
</script>

<template>
  <span
    role="status"
    :class="{
      quiet: state === 'saved' || state === 'saving',
      'said-clipped': state !== 'saved' && state !== 'saving',
    }"
  >
    {{ words }}
  </span>
</template>
