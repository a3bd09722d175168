<script setup lang="ts">
/** Chooses a sheet of one of the shop's libraries; shows nothing while that is empty or isn't theirs to see. */
import { useQuery } from '@tanstack/vue-query';
import { refDebounced } from '@vueuse/core';
import { computed, ref } from 'vue';
import { useDoor } from '@/composables/useDoor';
import SelectField from './SelectField.vue';
import TextField from './TextField.vue';

const props = defineProps<{
  /** The library, and which part of it: what is asked for again when it changes. */
  of: readonly string[];
  ask: (search: string) => Promise<{ total: number; options: { value: string; text: string }[] }>;
  label: string;
  /** What stands for no choice. */
  none: string;
  /** The field that finds a name among many. */
  find: string;
  hint?: string;
}>();
/** Its id, or nothing. */
const chosen = defineModel<string>({ required: true });

const TYPING_MS = 200;
const LONGEST_SEARCH = 200;
const { practises } = useDoor();
const search = ref('');
const looked = refDebounced(search, TYPING_MS);
const { data } = useQuery({
  queryKey: computed(() => [...props.of, 'to choose', looked.value.trim()]),
  queryFn: () => props.ask(looked.value.trim().slice(0, LONGEST_SEARCH)),
  enabled: computed(() => !practises.value),
  placeholderData: (before) => before,
});
const found = computed(() => data.value?.options ?? []);
/** So many that one looks for a name first. */
const many = computed(() => search.value !== '' || (data.value?.total ?? 0) > found.value.length);
const options = computed(() => [{ value: '', text: props.none }, ...found.value]);
</script>

<template>
  <div v-if="found.length || search">
    <TextField v-if="many" v-model="search" :label="find" />
    <SelectField v-model="chosen" :label="label" :options="options" :hint="hint" />
  </div>
</template>
