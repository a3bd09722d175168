<script setup lang="ts">
import { useId } from 'vue';
import NotSaved from './NotSaved.vue';

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
      <NotSaved v-if="problem" :problem="problem" />
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
