<script setup lang="ts">
/** What about the open part nobody has confirmed, and the word that settles it. */
import type { Doubted } from '@/api/client';
import NoteBox from '@/components/NoteBox.vue';

defineProps<{ found: readonly Doubted[] }>();
const emit = defineEmits<{ confirm: [] }>();
</script>

<template>
  <NoteBox v-if="found.length" kind="edge" class="marks">
    <div class="mb-1">
      <strong>Nobody has confirmed these:</strong> {{ found.map((one) => one.words).join('; ') }}. They came
      with a layout or a default, and they count.
    </div>
    <BButton variant="plain" @click="emit('confirm')">I have looked: they are right</BButton>
  </NoteBox>
</template>
