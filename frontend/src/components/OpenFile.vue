<script setup lang="ts">
/** A button that asks for a file and hands it on; why it couldn’t be opened is its model. */
import { useTemplateRef } from 'vue';
import { Refusal } from '@/api/client';

const props = defineProps<{ accept: string; label: string; open: (file: File) => Promise<unknown> }>();
const unread = defineModel<string>({ required: true });
const picker = useTemplateRef<HTMLInputElement>('picker');

const pick = () => picker.value?.click();
defineExpose({ pick });

async function chosen(): Promise<void> {
  const file = picker.value?.files?.[0];
  if (!file) return;
  unread.value = '';
  try {
    await props.open(file);
  } catch (problem) {
    if (!(problem instanceof Refusal)) throw problem;
    unread.value = `${file.name}: ${problem.message}`;
  } finally {
    if (picker.value) picker.value.value = '';
  }
}
</script>

<template>
  <input
    ref="picker"
    class="visually-hidden"
    type="file"
    :accept="accept"
    tabindex="-1"
    :aria-label="label"
    @change="chosen"
  />
  <BButton variant="plain" @click="pick">Import</BButton>
</template>
