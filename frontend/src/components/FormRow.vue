<script setup lang="ts">
/** A field below its label, with room beneath for what is wrong with it or a hint. */
import { computed, useId } from 'vue';
import NotSaved from './NotSaved.vue';

const props = defineProps<{
  label: string;
  hint?: string | undefined;
  problem?: string | undefined;
  /** By which a dialog finds the field. */
  fieldId?: string | undefined;
}>();
const own = useId();
const id = computed(() => props.fieldId ?? own);
</script>

<template>
  <div>
    <label class="form-label" :for="id">{{ label }}</label>
    <slot :id="id" :about="`${id}-about`" :state="problem ? false : null" />
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
