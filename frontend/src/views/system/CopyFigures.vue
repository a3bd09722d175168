<script setup lang="ts">
/** Fills a part with the figures that another path has there; the part stays this path's own. */
import { computed } from 'vue';
import type { Chain, Path } from '@/api/client';
import SelectField from '@/components/SelectField.vue';
import { copyFigures, others } from '@/support/sharing';

const props = defineProps<{ kind: 'amplifier' | 'load' }>();
const chain = defineModel<Chain>('chain', { required: true });
const path = defineModel<Path>('path', { required: true });

const partOf = (path: Path) =>
  props.kind === 'amplifier'
    ? chain.value.amplifiers.find((part) => part.id === path.amplifier)?.name
    : chain.value.loads.find((part) => part.id === path.load)?.name;
const options = computed(() => [
  { value: '', text: 'choose …' },
  ...others(chain.value, path.value, props.kind).map((other) => ({
    value: other.id,
    text: [other.name || 'Unnamed path', partOf(other)].filter(Boolean).join(': '),
  })),
]);
const chosen = computed({
  get: () => '',
  set: (id: string) => {
    const from = chain.value.paths.find((path) => path.id === id);
    if (from) copyFigures(chain.value, path.value, from, props.kind);
  },
});
</script>

<template>
  <SelectField
    v-if="options.length > 1"
    v-model="chosen"
    class="from"
    label="Copy figures from"
    :options="options"
  />
</template>

<style scoped>
.from {
  max-width: 16rem;
}
</style>
