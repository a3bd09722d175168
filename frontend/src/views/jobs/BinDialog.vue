<script setup lang="ts">
import { ref, watch } from 'vue';

defineProps<{ name: string }>();
const emit = defineEmits<{ keep: []; bin: [] }>();
const open = ref(true);
watch(open, (now) => now || emit('keep'));
</script>

<template>
  <BModal
    v-model="open"
    title="Move to the bin?"
    title-tag="h2"
    ok-title="Move to the bin"
    ok-variant="primary"
    cancel-title="Cancel"
    cancel-variant="plain"
    no-animation
    @ok="emit('bin')"
  >
    <p class="m-0">
      {{ name }} with all its readings and captures. You can restore it for 30 days on which the app runs;
      after that it is deleted permanently.
    </p>
  </BModal>
</template>
