<script setup lang="ts">
/** Fills a part with what another path has there. */
import { computed } from 'vue';
import type { Chain, Path } from '@/api/client';
import SelectField from '@/components/SelectField.vue';
import { makeAlike, others } from '@/support/alike';

const props = defineProps<{ label: string; kind: 'amplifier' | 'load' }>();
const chain = defineModel<Chain>('chain', { required: true });
const path = defineModel<Path>('path', { required: true });

const options = computed(() => [
  { value: '', text: 'choose …' },
  ...others(chain.value, path.value, props.kind).map((one) => ({ value: one.id, text: one.name || one.id })),
]);
const chosen = computed({
  get: () => '',
  set: (id: string) => {
    const from = chain.value.paths.find((one) => one.id === id);
    if (from) makeAlike(chain.value, path.value, from, props.kind);
  },
});
</script>

<template>
  <SelectField v-if="options.length > 1" v-model="chosen" class="same" :label="label" :options="options" />
</template>

<style scoped>
.same {
  max-width: 16rem;
}
</style>
