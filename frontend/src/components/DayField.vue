<script setup lang="ts">
/** A day, as the device's own calendar picks one. */
import { useId } from 'vue';

defineProps<{ label: string }>();
const day = defineModel<string | null>({ required: true });
const id = useId();
</script>

<template>
  <div class="day">
    <label class="form-label" :for="id">{{ label }}</label>
    <BFormInput
      :id="id"
      type="date"
      class="digits"
      min="1970-01-01"
      max="2199-12-31"
      :model-value="day ?? ''"
      @update:model-value="day = String($event ?? '') || null"
    />
  </div>
</template>

<style scoped>
/* As high as a field that may say something below. */
.day {
  margin-bottom: 1.26rem;
}
</style>
