<script setup lang="ts">
/** One knob of the simulated bench: a slider from fully down to fully up, and a hair either way. */
import { useId } from 'vue';
import { HAIR, knobAt } from '@/support/bench';

const props = withDefaults(
  defineProps<{
    turned: number;
    label: string;
    hair?: number;
    /** What the buttons are named by. */ name: string;
  }>(),
  { hair: HAIR },
);
const emit = defineEmits<{ turn: [turned: number] }>();
const id = useId();
const turn = (turned: number) => emit('turn', knobAt(turned));
</script>

<template>
  <div>
    <label class="form-label" :for="id">{{ label }}</label>
    <div class="d-flex gap-1 align-items-center">
      <BButton variant="plain" :aria-label="`${name} down slightly`" @click="turn(props.turned - hair)"
        >−</BButton
      >
      <input
        :id="id"
        class="form-range"
        type="range"
        min="0"
        max="1"
        :step="hair"
        :value="turned"
        @input="(event) => turn(Number((event.target as HTMLInputElement).value))"
      />
      <BButton variant="plain" :aria-label="`${name} up slightly`" @click="turn(props.turned + hair)"
        >+</BButton
      >
    </div>
  </div>
</template>

<style scoped>
.form-range {
  min-height: 44px;
}
</style>
