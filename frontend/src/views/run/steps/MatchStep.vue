<script setup lang="ts">
/** The match: the other channel of the same knob. Look, turn nothing. */
import { ref } from 'vue';
import WantedNow from '../WantedNow.vue';
import type { StepProps } from '.';

const props = defineProps<StepProps>();
const emit = defineEmits<{ volume: [number: number] }>();
const wanted = ref<InstanceType<typeof WantedNow> | null>(null);

const handleKey = (event: KeyboardEvent) => wanted.value?.handleKey(event) ?? false;
defineExpose({ handleKey });
</script>

<template>
  <WantedNow v-slot="{ comparison }" ref="wanted" v-bind="props" @volume="(number) => emit('volume', number)">
    <p v-if="comparison && ['below', 'above'].includes(comparison.fit)" class="mb-0">
      The channels differ. Check that the lead sits fully in its socket and that the balance is centred. If
      they must differ, skip this step with the reason.
    </p>
  </WantedNow>
</template>
