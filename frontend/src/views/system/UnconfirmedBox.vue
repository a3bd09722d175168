<script setup lang="ts">
/** Default figures of the open part that are in use: confirmed one by one, all of the part, or all of the system. */
import type { Doubted } from '@/api/client';
import NoteBox from '@/components/NoteBox.vue';

const props = defineProps<{
  found: readonly Doubted[];
  /** Those of the whole system. */
  all: readonly Doubted[];
  /** What the part is called. */
  part: string;
}>();
const emit = defineEmits<{ confirm: [places: string[]] }>();
const confirmAll = (some: readonly Doubted[]) =>
  emit(
    'confirm',
    some.map((unconfirmed) => unconfirmed.place),
  );
</script>

<template>
  <NoteBox v-if="found.length" kind="edge" class="marks">
    <strong>Unchecked defaults in use:</strong>
    <ul class="list-unstyled m-0">
      <li v-for="unconfirmed in found" :key="unconfirmed.place" class="one">
        <span>{{ unconfirmed.words }}</span>
        <BButton
          variant="plain"
          size="sm"
          :aria-label="`Confirm ${unconfirmed.words}`"
          @click="emit('confirm', [unconfirmed.place])"
          >Confirm</BButton
        >
      </li>
    </ul>
    <div class="d-flex flex-wrap gap-2 mt-1">
      <BButton v-if="found.length > 1" variant="plain" @click="confirmAll(props.found)"
        >Confirm all of {{ part }}</BButton
      >
      <BButton v-if="all.length > found.length" variant="plain" @click="confirmAll(props.all)"
        >Confirm all {{ all.length }} of the system</BButton
      >
    </div>
  </NoteBox>
</template>

<style scoped>
.one {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  justify-content: space-between;
  gap: 0 1rem;
  font-weight: 400;
}
</style>
