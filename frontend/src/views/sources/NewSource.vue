<script setup lang="ts">
/** A source begun by hand: its scale and its outputs as the maker states them. */
import { ref } from 'vue';
import { useRouter } from 'vue-router';
import { api, Refusal, type SourceSheet } from '@/api/client';
import NotSaved from '@/components/NotSaved.vue';
import QuantityField from '@/components/QuantityField.vue';
import SelectField from '@/components/SelectField.vue';
import TextField from '@/components/TextField.vue';
import { SOURCE_KINDS } from '@/support/sources';

const emit = defineEmits<{ close: [] }>();
const router = useRouter();
const name = ref('');
const kind = ref<SourceSheet['kind']>('receiver');
const top = ref(40);
const outputs = ref([{ id: 'front', name: 'Front', volts: 4 as number | null }]);
const sentence = ref('');
const id = ref(crypto.randomUUID());

function add(): void {
  const number = outputs.value.length + 1;
  outputs.value.push({ id: `output-${number}`, name: ['', 'Rear', 'Sub'][number - 1] ?? '', volts: 4 });
}
async function begin(): Promise<void> {
  const sheet = {
    format: 1,
    name: name.value,
    kind: kind.value,
    top_volume: top.value,
    outputs: outputs.value.map((output) => ({
      id: output.id,
      name: output.name,
      kind: kind.value === 'factory' ? 'speaker' : 'line',
      rated: { volts: output.volts },
    })),
  };
  try {
    const kept = await api.importSource(id.value, JSON.stringify(sheet));
    await router.push({ name: 'source', params: { id: kept.id } });
  } catch (problem) {
    if (!(problem instanceof Refusal)) throw problem;
    sentence.value = problem.message;
  }
}
</script>

<template>
  <form class="sheet" @submit.prevent="begin">
    <h2 class="h4">New source</h2>
    <div class="row g-2">
      <TextField v-model="name" class="col-md-4" label="Name" />
      <SelectField v-model="kind" class="col-6 col-md-4" label="Kind of source" :options="SOURCE_KINDS" />
      <QuantityField v-model="top" class="col-6 col-md-4" label="Volume scale ends at" kind="count" />
      <template v-for="(output, place) in outputs" :key="output.id">
        <TextField v-model="output.name" class="col-6 col-md-4" :label="`Output ${place + 1}`" />
        <QuantityField
          v-model="output.volts"
          :empty="null"
          class="col-6 col-md-4"
          label="states"
          kind="volts"
          unknown="not stated"
        />
        <div class="col-md-4" />
      </template>
    </div>
    <p v-if="sentence" role="alert" class="m-0"><NotSaved :problem="sentence" /></p>
    <div class="d-flex flex-wrap gap-2 mt-2">
      <BButton type="submit" variant="primary">Create</BButton>
      <BButton v-if="outputs.length < 8" variant="plain" @click="add">Add an output</BButton>
      <BButton variant="plain" @click="emit('close')">Cancel</BButton>
    </div>
  </form>
</template>
