<script setup lang="ts" generic="T extends string | number | boolean | null | undefined">
import { computed } from 'vue';
import { withMark } from '@/support/decimalMark';
import FormRow from './FormRow.vue';

const props = defineProps<{ label: string; options: { value: T; text: string }[]; hint?: string }>();
const chosen = defineModel<T>({ required: true });
const shown = computed(() => props.options.map((option) => ({ ...option, text: withMark(option.text) })));
</script>

<template>
  <FormRow v-slot="{ id, about }" :label="label" :hint="hint">
    <BFormSelect :id="id" v-model="chosen" :options="shown" :aria-describedby="about" />
  </FormRow>
</template>
