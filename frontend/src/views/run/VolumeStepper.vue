<script setup lang="ts">
defineProps<{ volume: number; top: number }>();
const emit = defineEmits<{ volume: [number: number] }>();
</script>

<template>
  <div role="group" aria-label="Source volume">
    <span class="form-label d-block">Source volume</span>
    <div class="stepper">
      <BButton
        class="btn-run"
        variant="plain"
        aria-label="Volume down one"
        :disabled="volume <= 0"
        @click="emit('volume', volume - 1)"
      >
        −
      </BButton>
      <output class="digits" aria-live="polite">{{ volume }}</output>
      <BButton
        class="btn-run"
        variant="plain"
        aria-label="Volume up one"
        :disabled="volume >= top"
        @click="emit('volume', volume + 1)"
      >
        +
      </BButton>
    </div>
  </div>
</template>

<style scoped>
.stepper {
  display: flex;
  align-items: center;
  gap: 0.4rem;
}
.btn-run {
  min-width: 64px;
  font-size: 1.7rem;
  line-height: 1;
}
output {
  min-width: 2.1em;
  text-align: center;
  font-size: 2.6rem;
  font-weight: 650;
  line-height: 1;
}
</style>
