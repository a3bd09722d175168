<script setup lang="ts">
import type { JobSheet } from '@/api/client';
import QuantityField from '@/components/QuantityField.vue';
import SelectField from '@/components/SelectField.vue';

defineProps<{ problems: Record<string, string> }>();
const emit = defineEmits<{ edited: [] }>();
const choices = defineModel<JobSheet['choices']>({ required: true });

const LEVELS = [0, -3, -5, -10].map((value) => ({
  value,
  text: value ? `−${-value} dBFS: ${-value} dB of overlap` : '0 dBFS: nothing ever clips',
}));
</script>

<template>
  <section class="sheet">
    <h2 class="h4">How you like it</h2>
    <div class="row g-2">
      <SelectField
        v-model="choices.tone_level_dbfs"
        class="col-md-4"
        label="Tone level for the gain"
        :options="LEVELS"
        hint="Lower fills the amplifier with quiet recordings; full-scale ones then clip"
      />
      <QuantityField
        v-model="choices.allowance_percent"
        class="col-md-4"
        label="Allowance on the speaker’s rating"
        kind="percent"
        hint="0 keeps to the rating"
        :problem="problems['choices.allowance_percent']"
        @update:model-value="emit('edited')"
      />
      <QuantityField
        v-model="choices.sub_tone_hz"
        class="col-6 col-md-2"
        label="Sub tone"
        kind="hertz"
        :problem="problems['choices.sub_tone_hz']"
        @update:model-value="emit('edited')"
      />
      <QuantityField
        v-model="choices.full_tone_hz"
        class="col-6 col-md-2"
        label="Other tone"
        kind="hertz"
        :problem="problems['choices.full_tone_hz']"
        @update:model-value="emit('edited')"
      />
    </div>
  </section>
</template>
