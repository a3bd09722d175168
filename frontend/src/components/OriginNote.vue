<script setup lang="ts">
/** Of a job that came from a file: since when, by whom, and what the file alone says. */
import { computed } from 'vue';
import type { RunView } from '@/api/client';
import { whenInWords } from '@/support/words';
import NoteBox from './NoteBox.vue';

const props = defineProps<{ origin: NonNullable<RunView['origin']> }>();
const SIGNED = {
  here: 'This installation signed the file, and nothing in it was changed since.',
  elsewhere: 'Another installation signed the file, and nothing in it was changed since. Its key:',
  nobody: 'Nobody signed the file: anybody may have written it.',
} as const;
const told = computed(() => {
  const { signed, signer } = props.origin;
  return signed === 'elsewhere' ? `${SIGNED[signed]} ${signer}.` : SIGNED[signed];
});
</script>

<template>
  <NoteBox kind="edge" class="mb-2">
    Brought in from a file on {{ whenInWords(origin.at) }}{{ origin.by ? ` by ${origin.by}` : '' }}. Readings,
    names and dates from before are as the file says. {{ told }}
  </NoteBox>
</template>
