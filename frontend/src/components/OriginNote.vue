<script setup lang="ts">
/** Of a job that came from a file: since when, by whom, and what the file alone says. */
import type { RunView } from '@/api/client';
import { whenInWords } from '@/support/words';
import NoteBox from './NoteBox.vue';

defineProps<{ origin: NonNullable<RunView['origin']> }>();
</script>

<template>
  <NoteBox kind="edge" class="mb-2">
    Brought in from a file on {{ whenInWords(origin.at) }}{{ origin.by ? ` by ${origin.by}` : '' }}. Readings,
    names and dates from before are as the file says.
  </NoteBox>
</template>
