<script setup lang="ts">
import { ref } from 'vue';
import type { Change } from '@/api/client';
import ChangeTable from '@/components/ChangeTable.vue';

defineProps<{ differs: Change[] }>();
const emit = defineEmits<{ settle: [keep: 'mine' | 'theirs'] }>();
const open = ref(true);
</script>

<template>
  <BModal
    v-model="open"
    title="Changed somewhere else"
    title-tag="h2"
    no-close-on-backdrop
    no-close-on-esc
    no-header-close
    no-animation
    scrollable
  >
    <p>This job was changed on another device or in another window. Nothing is lost.</p>
    <ChangeTable :changes="differs" was="There" now="Here" />
    <template #footer>
      <BButton variant="plain" @click="emit('settle', 'theirs')">Use the other version</BButton>
      <BButton variant="primary" @click="emit('settle', 'mine')">Keep this version</BButton>
    </template>
  </BModal>
</template>
