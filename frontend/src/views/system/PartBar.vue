<script setup lang="ts" generic="T extends string">
/** Which part of the system is being edited: one stop for Tab, and the arrows go from part to part. */
import { useTemplateRef } from 'vue';

const props = defineProps<{ parts: { key: T; text: string; wrong: boolean }[] }>();
const part = defineModel<T>({ required: true });
const bar = useTemplateRef<HTMLElement>('bar');
const STEPS: Record<string, number> = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 };

function move(event: KeyboardEvent): void {
  const step = STEPS[event.key];
  if (!step) return;
  event.preventDefault();
  const all = props.parts.length;
  const place = props.parts.findIndex((block) => block.key === part.value);
  const next = props.parts[(place + step + all) % all];
  if (!next) return;
  part.value = next.key;
  bar.value?.querySelectorAll('button')[props.parts.indexOf(next)]?.focus();
}
</script>

<template>
  <nav ref="bar" class="parts" aria-label="Parts" @keydown="move">
    <BButton
      v-for="block in parts"
      :key="block.key"
      :variant="block.key === part ? 'primary' : 'plain'"
      :aria-pressed="block.key === part"
      :tabindex="block.key === part ? 0 : -1"
      @click="part = block.key"
      >{{ block.text }}<span v-if="block.wrong" class="wrong"> · correct</span></BButton
    >
  </nav>
</template>

<style scoped>
.parts {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem;
}
</style>
