<script setup lang="ts">
/** Chooses a source of the shop's library; shows nothing while the library is empty or isn't theirs to see. */
import { useQuery } from '@tanstack/vue-query';
import { refDebounced } from '@vueuse/core';
import { computed, ref } from 'vue';
import { api } from '@/api/client';
import SelectField from '@/components/SelectField.vue';
import TextField from '@/components/TextField.vue';
import { useDoor } from '@/composables/useDoor';
import { cleanVolts } from '@/support/sources';

defineProps<{ label: string; none: string; hint?: string }>();
/** Its id, or nothing. */
const chosen = defineModel<string>({ required: true });

const { practises } = useDoor();
const search = ref('');
const looked = refDebounced(search, 200);
const { data } = useQuery({
  queryKey: computed(() => ['sources', 'to choose', looked.value.trim()]),
  queryFn: () => api.sources({ search: looked.value.trim().slice(0, 200), limit: 100 }),
  enabled: computed(() => !practises.value),
  placeholderData: (before) => before,
});
const found = computed(() => data.value?.sources ?? []);
/** So many that one looks for a name first. */
const many = computed(() => search.value !== '' || (data.value?.total ?? 0) > found.value.length);
const options = (none: string) => [
  { value: '', text: none },
  ...found.value.map((one) => ({ value: one.id, text: `${one.name}, ${cleanVolts(one)}` })),
];
</script>

<template>
  <div v-if="found.length || search">
    <TextField v-if="many" v-model="search" label="Look for a source" />
    <SelectField v-model="chosen" :label="label" :options="options(none)" :hint="hint" />
  </div>
</template>
