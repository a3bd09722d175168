<script setup lang="ts">
import type { JobSheet } from '@/api/client';
import QuantityField from '@/components/QuantityField.vue';
import TextField from '@/components/TextField.vue';

defineProps<{ problems: Record<string, string>; place: string }>();
const emit = defineEmits<{ edited: [] }>();
const source = defineModel<JobSheet['chain']['sources'][number]>({ required: true });
</script>

<template>
  <section class="sheet">
    <h2 class="h4">Source</h2>
    <div class="row g-2">
      <TextField
        v-model="source.name"
        class="col-md-4"
        label="Receiver"
        :problem="problems[`${place}.name`]"
      />
      <QuantityField
        v-model="source.rated_output_v"
        class="col-6 col-md-4"
        label="Rated line output"
        kind="volts"
        hint="From its data sheet, at full volume"
        :problem="problems[`${place}.rated_output_v`]"
        @update:model-value="emit('edited')"
      />
      <QuantityField
        v-model="source.top_volume"
        class="col-6 col-md-4"
        label="Top volume number"
        kind="count"
        hint="The highest it shows"
        :problem="problems[`${place}.top_volume`]"
        @update:model-value="emit('edited')"
      />
    </div>
  </section>
</template>
