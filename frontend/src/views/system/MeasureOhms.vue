<script setup lang="ts">
/** The impedance of a speaker from a meter's ohms, where no sheet says it. */
import { ref } from 'vue';
import { api } from '@/api/client';
import FoldBox from '@/components/FoldBox.vue';
import QuantityField from '@/components/QuantityField.vue';
import { useAnswer } from '@/composables/useAnswer';
import { formatValue } from '@/support/quantity';

const emit = defineEmits<{ found: [ohms: number] }>();
const resistance = ref<number | null>(null);
const { answer, trouble } = useAnswer(
  () => resistance.value,
  () => (resistance.value === null ? undefined : api.calculateImpedance({ ohms: resistance.value })),
);
</script>

<template>
  <FoldBox title="Measure the ohms">
    <p class="quiet m-0">Speaker off the amplifier, meter at ohms, probes on its two terminals.</p>
    <QuantityField v-model="resistance" :empty="null" unknown="" label="Meter reads" kind="ohms" />
    <p v-if="trouble" class="said-clipped m-0" role="alert">{{ trouble }}</p>
    <p v-else-if="answer" class="m-0" role="status">
      {{ answer.sentence }}
      <BButton v-if="answer.nominal_ohm" variant="plain" @click="emit('found', answer.nominal_ohm)"
        >Use {{ formatValue(answer.nominal_ohm, 'Ω') }}</BButton
      >
    </p>
  </FoldBox>
</template>
