<script setup lang="ts">
/** The papers that leave with the vehicle, saved as PDF. */
import { api } from '@/api/client';
import { useTrying } from '@/composables/useTrying';
import { saveFile } from '@/support/saveFile';

const props = defineProps<{ job: string; name: string }>();
const { trouble, said, trying } = useTrying();
const WORDS = { card: 'Customer’s card (PDF)', sheet: 'Sheet (PDF)' } as const;
const save = (paper: keyof typeof WORDS) =>
  trying(async () => saveFile(await api.paper(props.job, paper), `${props.name} ${paper}.pdf`), 'Saved.');
</script>

<template>
  <BButton v-for="(words, paper) in WORDS" :key="paper" variant="plain" @click="save(paper)">{{
    words
  }}</BButton>
  <p v-if="trouble" class="said-clipped mb-0 w-100 text-end" role="alert">{{ trouble }}</p>
  <span class="visually-hidden" role="status">{{ said }}</span>
</template>
