<script setup lang="ts">
/** A path that can't be planned yet: what it lacks, and the way to the field. */
import { computed } from 'vue';
import { useJob } from '@/composables/useJob';
import type { StepProps } from '.';

const props = defineProps<StepProps>();
defineEmits<{ volume: [number: number]; onward: [] }>();
const { id } = useJob();
const step = computed(() => props.desk.step.value);
const path = computed(() => step.value?.path ?? undefined);
const query = computed(() => (step.value?.field ? { field: step.value.field } : { path: path.value }));
defineExpose({ handleKey: () => false });
</script>

<template>
  <div class="sheet">
    <p v-for="line in step?.do" :key="line" class="fs-5">{{ line }}</p>
    <p class="quiet">Until then this path has no target, and the run can’t be completed.</p>
    <RouterLink class="btn btn-primary btn-run" :to="{ name: 'system', params: { id }, query }"
      >Fill it in</RouterLink
    >
  </div>
</template>
