<script setup lang="ts">
/** A stopwatch: started as the doors are locked, stopped when it is off. It goes by the clock, not by its own ticks. */
import { formatFixed } from '@/support/quantity';
import { useIntervalFn } from '@vueuse/core';
import { computed, ref } from 'vue';

const emit = defineEmits<{ stopped: [seconds: number] }>();
const began = ref<number | null>(null);
const now = ref(0);
const { pause, resume } = useIntervalFn(() => (now.value = Date.now()), 200, { immediate: false });
const seconds = computed(() => (began.value === null ? 0 : Math.max(0, now.value - began.value) / 1000));

function press(): void {
  now.value = Date.now();
  if (began.value === null) {
    began.value = now.value;
    resume();
    return;
  }
  emit('stopped', seconds.value);
  began.value = null;
  pause();
}
</script>

<template>
  <BButton class="btn-run" variant="plain" @click="press">
    {{ began === null ? 'Start the stopwatch' : `Stop at ${formatFixed(seconds, 0)} s` }}
  </BButton>
</template>
