<script setup lang="ts">
/** Asks for the password or PIN before an act that lets somebody in or out. */
import { api } from '@/api/client';
import { useFocusBack } from '@/composables/useFocusBack';
import { useProof } from '@/composables/useProof';
import { useTrying } from '@/composables/useTrying';
import PersonProof from './PersonProof.vue';

useFocusBack();
const { answer } = useProof();
const { trouble, trying } = useTrying();

async function prove(by: { pin: string } | { password: string }): Promise<void> {
  if (await trying(() => api.prove(by))) answer(true);
}
</script>

<template>
  <BModal
    :model-value="true"
    title="Show that it is you"
    title-tag="h2"
    focus="#proof"
    no-footer
    no-animation
    @hidden="answer(false)"
  >
    <p>A page that was left open could be anybody’s. This lets somebody in or out.</p>
    <PersonProof :trouble="trouble" action="Go on" field-id="proof" @proof="prove">
      <BButton variant="plain" @click="answer(false)">Cancel</BButton>
    </PersonProof>
  </BModal>
</template>
