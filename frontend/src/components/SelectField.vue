<script setup lang="ts" generic="T extends string | number | boolean | null | undefined">
import { computed, useId } from 'vue';
import { withMark } from '@/support/decimalMark';

const props = defineProps<{ label: string; options: { value: T; text: string }[]; hint?: string }>();
const chosen = defineModel<T>({ required: true });
const id = useId();
const shown = computed(() => props.options.map((option) => ({ ...option, text: withMark(option.text) })));
</script>

<template>
  <div>
    <label class="form-label" :for="id">{{ label }}</label>
    <BFormSelect :id="id" v-model="chosen" :options="shown" />
    <div class="about quiet">{{ hint }}</div>
  </div>
</template>

<style scoped>
.about {
  font-size: 0.9rem;
  min-height: 1.4em;
}
</style>
