<script setup lang="ts">
/** Over everything while its person is away: what was typed stays where it is, and nobody reads it. */
import { useDoor } from '@/composables/useDoor';
import { useTrying } from '@/composables/useTrying';
import PersonProof from './PersonProof.vue';

const { person, back, signOut } = useDoor();
const { trouble, trying } = useTrying();
</script>

<template>
  <section class="sheet door">
    <h1>Locked</h1>
    <p>
      <strong>{{ person?.name ?? 'The person' }}</strong> is away. What was typed is still there.
    </p>
    <PersonProof :trouble="trouble" action="Go on" @proof="(by) => trying(() => back(by))">
      <BButton variant="plain" @click="trying(signOut)">Somebody else</BButton>
    </PersonProof>
  </section>
</template>
