<script setup lang="ts">
/** Lets go of what is kept on this device: pressed twice, since it is gone for good then. */
import { ref } from 'vue';
import { letGo } from '@/composables/useOutbox';

const props = withDefaults(defineProps<{ entry: string; words?: string; really?: string }>(), {
  words: 'Discard',
  really: 'Really discard',
});
const sure = ref(false);

async function press(): Promise<void> {
  if (sure.value) await letGo(props.entry);
  else sure.value = true;
}
</script>

<template>
  <BButton size="sm" variant="plain" @click="press">{{ sure ? really : words }}</BButton>
</template>
