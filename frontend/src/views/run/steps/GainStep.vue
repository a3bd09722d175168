<script setup lang="ts">
/** The gain: turn until the wanted volts show, or say why they don't. */
import { ref, watch } from 'vue';
import type { NewMark } from '@/api/client';
import { useSounds } from '@/composables/useSounds';
import { pressed } from '@/support/keys';
import WantedNow from '../WantedNow.vue';
import type { StepProps } from '.';

const props = defineProps<StepProps>();
const emit = defineEmits<{ volume: [number: number] }>();
const sounds = useSounds();
const wanted = ref<InstanceType<typeof WantedNow> | null>(null);

watch(
  () => props.meter,
  (event) => event?.comparison && sounds.near(event.comparison),
);

/** Says why the gain stands although the target was not met; which end a stop is, the reading says. */
function settle(outcome: NonNullable<NewMark['outcome']>): void {
  if (wanted.value?.settled()) props.desk.say({ outcome });
}

function handleKey(event: KeyboardEvent): boolean {
  const acts = { x: () => settle('clipped_first'), g: () => settle('at_stop') };
  return pressed(event, acts) || (wanted.value?.handleKey(event) ?? false);
}
defineExpose({ handleKey });
</script>

<template>
  <WantedNow v-slot="{ done }" ref="wanted" v-bind="props" @volume="(number) => emit('volume', number)">
    <template v-if="!done">
      <p class="mb-2">
        Not reachable? Clips first: back off until the wave is clean and take that. Knob at an end: take what
        it gives.
      </p>
      <div class="d-flex flex-wrap gap-2">
        <BButton class="btn-run" variant="plain" @click="settle('clipped_first')"
          >It clips first <kbd>X</kbd></BButton
        >
        <BButton class="btn-run" variant="plain" @click="settle('at_stop')"
          >Knob is at its stop <kbd>G</kbd></BButton
        >
      </div>
    </template>
  </WantedNow>
</template>
