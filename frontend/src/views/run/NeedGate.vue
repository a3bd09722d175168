<script setup lang="ts">
/** What comes before this step, the way there, and the way round. */
import { computed } from 'vue';
import { useRouter } from 'vue-router';
import NoteBox from '@/components/NoteBox.vue';
import { useJob } from '@/composables/useJob';
import type { RunDesk } from '@/composables/useRunDesk';
import type { Gate } from './useGate';

const props = defineProps<{ gate: Gate; desk: RunDesk }>();
const { id } = useJob();
const router = useRouter();
const need = computed(() => props.gate.need.value);
const title = computed(
  () => props.desk.run.value?.steps.find((step) => step.key === need.value?.step)?.name ?? '',
);
const around = computed(() => (need.value?.counts ? 'Measure anyway' : 'Measure anyway: it settles nothing'));

function answer(): void {
  if (need.value?.item) props.desk.say({ item: need.value.item, answer: 'done' }, need.value.step);
}
const toIt = () => void router.push({ name: 'run', params: { id: id.value, step: need.value?.step } });
</script>

<template>
  <NoteBox v-if="need && gate.stands.value" kind="edge" class="gate">
    <p class="mb-1">{{ need.sentence }}</p>
    <p v-if="gate.refusals.value" class="said-clipped mb-1" role="alert">
      Not saved. Choose one of these first.
    </p>
    <div class="d-flex flex-wrap gap-2">
      <BButton v-if="need.item" variant="clean" @click="answer">{{ need.answer }}</BButton>
      <BButton v-else variant="primary" @click="toIt">Go to “{{ title }}”</BButton>
      <BButton variant="plain" @click="gate.pass()">{{ around }}</BButton>
    </div>
  </NoteBox>
</template>
