<script setup lang="ts">
/** Begins a job about one unit of a source by itself: its outputs by every way of playing, step by step on the bench. */
import { ref } from 'vue';
import { useRouter } from 'vue-router';
import { api, Refusal } from '@/api/client';
import TextField from '@/components/TextField.vue';
import { usePreferences } from '@/composables/usePreferences';

const props = defineProps<{ sheet: string; name: string }>();
const emit = defineEmits<{ close: [] }>();
const router = useRouter();
const preferences = usePreferences();
const unit = ref('');
const trouble = ref('');
// Chosen once, so that pressing twice begins one job.
const id = crypto.randomUUID();

async function begin(): Promise<void> {
  try {
    const job = await api.createJob({
      id,
      subject: 'source',
      source_sheet: props.sheet,
      vehicle: unit.value,
      note: '',
      practice: false,
      by: preferences.value.name,
    });
    await router.push({ name: 'system', params: { id: job.id } });
  } catch (problem) {
    if (!(problem instanceof Refusal)) throw problem;
    trouble.value = problem.message;
  }
}
</script>

<template>
  <form class="sheet" @submit.prevent="begin">
    <h2 class="h4">Measure a unit of {{ name }}</h2>
    <p class="mb-2">
      On the bench, without a vehicle: every output by every way of playing, in the order that changes least.
      Skip outputs that give the same voltage as one already measured.
    </p>
    <TextField v-model="unit" label="Unit" hint="A serial number, where it comes from" />
    <p v-if="trouble" class="said-clipped" role="alert">{{ trouble }}</p>
    <div class="d-flex gap-2 mt-2">
      <BButton type="submit" variant="primary">Create</BButton>
      <BButton variant="plain" @click="emit('close')">Cancel</BButton>
    </div>
  </form>
</template>
