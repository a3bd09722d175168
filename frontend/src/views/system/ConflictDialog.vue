<script setup lang="ts">
import { ref } from 'vue';
import type { Change } from '@/api/client';
import { valueInWords } from '@/support/words';

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
    <p>This job was changed in another window or on another device while you edited it. Nothing is lost.</p>
    <table class="table">
      <thead>
        <tr>
          <th scope="col">What</th>
          <th scope="col">There</th>
          <th scope="col">Here</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in differs" :key="one.place">
          <th scope="row">{{ one.label || one.place }}</th>
          <td>{{ valueInWords(one.was) }}</td>
          <td>{{ valueInWords(one.now) }}</td>
        </tr>
      </tbody>
    </table>
    <template #footer>
      <BButton variant="plain" @click="emit('settle', 'theirs')">Take what is there</BButton>
      <BButton variant="primary" @click="emit('settle', 'mine')">Keep what is here</BButton>
    </template>
  </BModal>
</template>
