<script setup lang="ts">
/** A day, as the device's own calendar picks one. */
import FormRow from './FormRow.vue';

defineProps<{ label: string }>();
const day = defineModel<string | null>({ required: true });
</script>

<template>
  <FormRow v-slot="{ id }" :label="label">
    <BFormInput
      :id="id"
      type="date"
      class="digits"
      min="1970-01-01"
      max="2199-12-31"
      :model-value="day ?? ''"
      @update:model-value="day = String($event ?? '') || null"
    />
  </FormRow>
</template>
