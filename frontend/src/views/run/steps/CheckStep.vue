<script setup lang="ts">
/** A vehicle that came back: what the readings taken again tell, and below them the readings themselves. */
import { computed, ref } from 'vue';
import FoldBox from '@/components/FoldBox.vue';
import NoteBox from '@/components/NoteBox.vue';
import { useJob } from '@/composables/useJob';
import RowsStep from './RowsStep.vue';
import type { StepProps } from '.';

const props = defineProps<StepProps>();
const emit = defineEmits<{ volume: [number: number] }>();
const { id } = useJob();
const rows = ref<InstanceType<typeof RowsStep> | null>(null);
const state = computed(() => props.desk.state.value);
const checked = computed(() => state.value?.checked);
const complaint = computed(() => state.value?.answers?.find((answer) => answer.item === 'back')?.note ?? '');
/** The steps that set what may have moved, each once. */
const settable = computed(() => [
  ...new Set((checked.value?.moved ?? []).flatMap((moved) => (moved.step ? [moved.step] : [])).slice(0, 3)),
]);
const titleOf = (key: string) =>
  props.desk.run.value?.steps.find((step) => step.key === key)?.title ?? 'its step';

defineExpose({ handleKey: (event: KeyboardEvent) => rows.value?.handleKey(event) ?? false });
</script>

<template>
  <p v-if="complaint" class="mb-2"><strong>Complaint or reason:</strong> {{ complaint }}</p>
  <NoteBox v-if="state?.reading || !desk.step.value?.rows?.length" :kind="checked?.missed ? 'edge' : 'clean'">
    <p class="mb-1 fs-5 fw-bold" role="status">{{ state?.sentence }}</p>
    <p v-for="key in settable" :key="key" class="mb-1">
      <RouterLink class="tap" :to="{ name: 'run', params: { id, step: key } }"
        >Go to “{{ titleOf(key) }}”</RouterLink
      >
    </p>
    <p v-if="checked?.missed" class="quiet mb-0">
      Put it back and read again, or set it again in its step. What no longer holds is marked to redo.
    </p>
  </NoteBox>
  <RowsStep
    v-if="desk.step.value?.rows?.length"
    ref="rows"
    v-bind="props"
    @volume="(number) => emit('volume', number)"
  />
  <FoldBox
    v-if="checked?.not_shown?.length"
    class="mt-2"
    :title="`${checked.not_shown.length} things that these readings would not show`"
  >
    <ul class="mb-0">
      <li v-for="sentence in checked.not_shown" :key="sentence">{{ sentence }}</li>
    </ul>
  </FoldBox>
</template>
