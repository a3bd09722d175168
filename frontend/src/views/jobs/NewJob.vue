<script setup lang="ts">
/** Begins a job: the vehicle, the layout, and a source of the library where it is known already. */
import { ref } from 'vue';
import { useRouter } from 'vue-router';
import { api, Refusal } from '@/api/client';
import CheckField from '@/components/CheckField.vue';
import SelectField from '@/components/SelectField.vue';
import { useDoor } from '@/composables/useDoor';
import { usePreferences } from '@/composables/usePreferences';
import { useTemplates } from '@/composables/useTemplates';
import SheetPicker from '@/views/sources/SheetPicker.vue';

const props = defineProps<{ toPractise: boolean }>();
const emit = defineEmits<{ close: [] }>();
const router = useRouter();
const preferences = usePreferences();
const vehicle = ref('');
const layout = ref('front');
const source = ref('');
const note = ref('');
const { practises } = useDoor();
const practice = ref(props.toPractise);
const sentence = ref('');
const { data: layouts } = useTemplates();
// Chosen once, so that pressing twice begins one job.
const id = ref(crypto.randomUUID());

async function begin(): Promise<void> {
  try {
    const job = await api.createJob({
      id: id.value,
      subject: 'system',
      vehicle: vehicle.value,
      layout: layout.value,
      note: note.value,
      practice: practice.value || practises.value,
      by: preferences.value.name,
      ...(source.value ? { source_sheet: source.value } : {}),
    });
    id.value = crypto.randomUUID();
    await router.push({ name: 'system', params: { id: job.id } });
  } catch (problem) {
    if (!(problem instanceof Refusal)) throw problem;
    sentence.value = problem.message;
  }
}
</script>

<template>
  <form class="sheet mb-3" @submit.prevent="begin">
    <h2 class="h4">New job</h2>
    <div class="row g-3">
      <div class="col-md-6">
        <label class="form-label" for="vehicle">Vehicle</label>
        <BFormInput id="vehicle" v-model="vehicle" autofocus autocomplete="off" />
      </div>
      <SelectField
        v-model="layout"
        class="col-md-6"
        label="Layout"
        :options="(layouts ?? []).map((layout) => ({ value: layout.key, text: layout.name }))"
      />
      <SheetPicker
        v-model="source"
        class="col-md-6"
        label="Source"
        none="Not in the library"
        :hint="source ? 'Uses the volts measured before. The run checks each output with one reading.' : ''"
      />
      <div class="col-md-6">
        <label class="form-label" for="note">Note</label>
        <BFormInput id="note" v-model="note" autocomplete="off" />
      </div>
    </div>
    <p v-if="practises" class="quiet mt-2 mb-0">Practice job (no real vehicle).</p>
    <CheckField v-else v-model="practice" class="mt-2" label="Practice job (no real vehicle)" />
    <p v-if="sentence" class="said-clipped mt-2 mb-0" role="alert">{{ sentence }}</p>
    <div class="d-flex gap-2 mt-3">
      <BButton type="submit" variant="primary">Create</BButton>
      <BButton variant="plain" @click="emit('close')">Cancel</BButton>
    </div>
    <p class="quiet mt-2 mb-0">Next: the parts, filled with usual values to correct.</p>
  </form>
</template>
