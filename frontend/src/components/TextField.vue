<script setup lang="ts">
import { useId } from 'vue';

defineProps<{ label: string; hint?: string; problem?: string; long?: boolean }>();
const text = defineModel<string>({ required: true });
const id = useId();
</script>

<template>
  <div>
    <label class="form-label" :for="id">{{ label }}</label>
    <BFormTextarea
      v-if="long"
      :id="id"
      v-model="text"
      rows="2"
      :state="problem ? false : null"
      :aria-describedby="`${id}-about`"
    />
    <BFormInput
      v-else
      :id="id"
      v-model="text"
      autocomplete="off"
      :state="problem ? false : null"
      :aria-describedby="`${id}-about`"
    />
    <div :id="`${id}-about`" class="about">
      <span v-if="problem" class="said-clipped">{{ problem }}. Not saved.</span>
      <span v-else-if="hint" class="quiet">{{ hint }}</span>
    </div>
  </div>
</template>

<style scoped>
.about {
  font-size: 0.9rem;
  min-height: 1.4em;
}
</style>
