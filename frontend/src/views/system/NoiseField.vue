<script setup lang="ts">
/** Signal-to-noise ratio of a part, as its data sheet says it; the plan takes what is usual where it doesn't. */
import QuantityField from '@/components/QuantityField.vue';

defineProps<{ problems: Record<string, string>; place: string }>();
const part = defineModel<{ signal_to_noise_db?: number | null }>({ required: true });
</script>

<template>
  <QuantityField
    v-model="part.signal_to_noise_db"
    :empty="null"
    label="Signal-to-noise ratio"
    kind="decibels"
    unknown="usual"
    :problem="problems[`${place}.signal_to_noise_db`]"
  />
</template>
