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
    title="Into the bin?"
    title-tag="h2"
    ok-title="Into the bin"
    ok-variant="primary"
    cancel-title="Keep it"
    cancel-variant="plain"
    no-animation
    @ok="emit('bin')"
  >
    <p class="m-0">
      {{ name }} with all its readings and captures. It can be had back for 30 days, then it is gone for good.
    </p>
  </BModal>
</template>
