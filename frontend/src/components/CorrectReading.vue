<script setup lang="ts">
/** The figures of a reading that the server wouldn't have, to be put right. */
import { ref, useId } from 'vue';
import { formatValue, parseQuantity } from '@/support/quantity';

const props = defineProps<{ value: number; volume: number | null }>();
const emit = defineEmits<{ correct: [value: number, volume: number | null] }>();
const ids = { volts: useId(), volume: useId() };
const volts = ref(formatValue(props.value, 'V'));
const number = ref(props.volume === null ? '' : String(props.volume));
const sentence = ref('');

function correct(): void {
  const parsed = parseQuantity(volts.value, 'volts');
  const volume = number.value.trim();
  if ('reason' in parsed) sentence.value = parsed.reason;
  else if (!/^\d{0,4}$/.test(volume)) sentence.value = `“${volume}” isn’t a volume number.`;
  else emit('correct', parsed.value, volume === '' ? null : Number(volume));
}
</script>

<template>
  <form class="correct" @submit.prevent="correct">
    <div>
      <label class="form-label" :for="ids.volts">Volts</label>
      <BFormInput :id="ids.volts" v-model="volts" class="digits" inputmode="decimal" autocomplete="off" />
    </div>
    <div>
      <label class="form-label" :for="ids.volume">Volume number</label>
      <BFormInput :id="ids.volume" v-model="number" class="digits" inputmode="numeric" autocomplete="off" />
    </div>
    <BButton type="submit" variant="primary">Send it like this</BButton>
    <p v-if="sentence" class="said-clipped m-0" role="alert">{{ sentence }}</p>
  </form>
</template>

<style scoped>
.correct {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem 1rem;
  align-items: end;
  margin: 0.3rem 0;
}
</style>
