<script setup lang="ts">
/** The impedance of a speaker from a meter's ohms, where no sheet says it. */
import { ref, watch } from 'vue';
import { api, Refusal } from '@/api/client';
import FoldBox from '@/components/FoldBox.vue';
import QuantityField from '@/components/QuantityField.vue';
import { formatValue } from '@/support/quantity';

const emit = defineEmits<{ found: [ohms: number] }>();
const resistance = ref<number | null>(null);
const answer = ref<{ nominal_ohm: number | null; sentence: string }>();
watch(resistance, async (ohms) => {
  answer.value = undefined;
  if (ohms === null) return;
  try {
    answer.value = await api.calculateImpedance({ ohms });
  } catch (problem) {
    if (!(problem instanceof Refusal)) throw problem;
    answer.value = { nominal_ohm: null, sentence: problem.message };
  }
});
</script>

<template>
  <FoldBox title="Measure it">
    <p class="quiet m-0">Speaker off the amplifier, meter at ohms, probes on its two terminals.</p>
    <QuantityField v-model="resistance" :empty="null" unknown="" label="Meter reads" kind="ohms" />
    <p v-if="answer" class="m-0" role="status">
      {{ answer.sentence }}
      <BButton v-if="answer.nominal_ohm" variant="plain" @click="emit('found', answer.nominal_ohm)"
        >Use {{ formatValue(answer.nominal_ohm, 'Ω') }}</BButton
      >
    </p>
  </FoldBox>
</template>
