<script setup lang="ts">
/** Chooses a source of the shop's library. */
import { api } from '@/api/client';
import LibraryPicker from '@/components/LibraryPicker.vue';
import { cleanVolts } from '@/support/sources';

defineProps<{ label: string; none: string; hint?: string }>();
/** Its id, or nothing. */
const chosen = defineModel<string>({ required: true });

async function ask(search: string) {
  const { total, sources } = await api.sources({ search, limit: 100 });
  return {
    total,
    options: sources.map((source) => ({ value: source.id, text: `${source.name}, ${cleanVolts(source)}` })),
  };
}
</script>

<template>
  <LibraryPicker
    v-model="chosen"
    :of="['sources']"
    :ask="ask"
    :label="label"
    :none="none"
    :hint="hint"
    find="Look for a source"
  />
</template>
