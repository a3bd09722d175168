<script setup lang="ts">
import FormRow from './FormRow.vue';

defineProps<{ label: string; hint?: string; problem?: string; long?: boolean }>();
const text = defineModel<string>({ required: true });
</script>

<template>
  <FormRow v-slot="{ id, about, state }" :label="label" :hint="hint" :problem="problem">
    <BFormTextarea v-if="long" :id="id" v-model="text" rows="2" :state="state" :aria-describedby="about" />
    <BFormInput v-else :id="id" v-model="text" autocomplete="off" :state="state" :aria-describedby="about" />
  </FormRow>
</template>
