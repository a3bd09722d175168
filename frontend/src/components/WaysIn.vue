<script setup lang="ts">
/** New ways in, told on every device of the owner's until seen: a passkey added at an unlocked page would stay unnoticed. */
import type { TrailEntry } from '@/api/client';
import { whenInWords } from '@/support/words';
import NoteBox from './NoteBox.vue';

const SHOWN = 3;
defineProps<{ acts: readonly TrailEntry[]; trouble: string }>();
const emit = defineEmits<{ seen: [] }>();
</script>

<template>
  <NoteBox kind="edge" role="status">
    <strong>New ways in:</strong>{{ ' ' }}
    <span v-for="act in acts.slice(0, SHOWN)" :key="act.number">
      {{ act.by || 'Somebody' }} {{ act.act }}<template v-if="act.device"> on {{ act.device }}</template
      >, {{ whenInWords(act.at) }}.
    </span>
    <span v-if="acts.length > SHOWN">And {{ acts.length - SHOWN }} more. </span>
    Unknown to you? Let the person go or take the device away under
    <RouterLink class="tap" :to="{ name: 'people' }">People</RouterLink>.
    <BButton size="sm" variant="plain" @click="emit('seen')">I know of them</BButton>
    <span v-if="trouble" role="alert"> {{ trouble }}</span>
  </NoteBox>
</template>
