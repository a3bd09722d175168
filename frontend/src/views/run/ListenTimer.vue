<script setup lang="ts">
/** How long a tone may be on while somebody listens, and the pause after it: a steady tone burns speakers. */
import { useIntervalFn } from '@vueuse/core';
import { computed, ref } from 'vue';
import { useSounds } from '@/composables/useSounds';

const ON_S = 5;
const PAUSE_S = 15;
const sounds = useSounds();
const began = ref<number | null>(null);
const now = ref(0);
const { pause, resume } = useIntervalFn(tick, 200, { immediate: false });
const seconds = computed(() => (began.value === null ? 0 : (now.value - began.value) / 1000));
const isOn = computed(() => began.value !== null && seconds.value < ON_S);
const left = computed(() => Math.ceil((isOn.value ? ON_S : ON_S + PAUSE_S) - seconds.value));

function tick(): void {
  const wasOn = isOn.value;
  now.value = Date.now();
  if (wasOn && !isOn.value) sounds.refused();
  if (seconds.value < ON_S + PAUSE_S) return;
  began.value = null;
  pause();
}
function start(): void {
  if (began.value !== null) return;
  now.value = began.value = Date.now();
  resume();
}
defineExpose({ start });
</script>

<template>
  <div class="timer">
    <BButton class="btn-run" variant="plain" :disabled="began !== null" @click="start"
      >Tone on <kbd>L</kbd></BButton
    >
    <p
      class="mb-0 fs-5 fw-bold"
      :class="isOn ? 'said-clean' : began === null ? '' : 'said-clipped'"
      role="status"
    >
      <template v-if="began === null">At most {{ ON_S }} seconds on, then {{ PAUSE_S }} of pause.</template>
      <template v-else-if="isOn">Listen: {{ left }} s</template>
      <template v-else>Tone off now. Next in {{ left }} s.</template>
    </p>
  </div>
</template>

<style scoped>
.timer {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem 1rem;
  align-items: center;
}
</style>
