<script setup lang="ts">
/** Over everything while its person is away: what was typed stays where it is, and nobody reads it. */
import { computed, ref } from 'vue';
import { useRouter } from 'vue-router';
import { useDoor } from '@/composables/useDoor';
import { useTrying } from '@/composables/useTrying';
import PasswordField from './PasswordField.vue';

const router = useRouter();
const { person, byPin, back, signOut } = useDoor();
const { trouble, trying } = useTrying();
const hasPin = computed(() => byPin.value.some((one) => one.id === person.value?.id));
const typed = ref('');
const byPassword = ref(false);
const pinAsked = computed(() => hasPin.value && !byPassword.value);

async function come(): Promise<void> {
  const words = typed.value;
  typed.value = '';
  await trying(() => back(pinAsked.value ? { pin: words } : { password: words }));
}
const somebodyElse = () =>
  trying(async () => {
    await signOut();
    await router.replace({ name: 'sign-in' });
  });
</script>

<template>
  <form class="sheet door" @submit.prevent="come">
    <h1>Locked</h1>
    <p>
      <strong>{{ person?.name ?? 'The person' }}</strong> is away. What was typed is still there.
    </p>
    <PasswordField
      :key="String(pinAsked)"
      v-model="typed"
      :label="pinAsked ? 'PIN' : 'Password'"
      :autocomplete="pinAsked ? 'off' : 'current-password'"
      :digits="pinAsked"
      focused
    />
    <p v-if="trouble" class="said-clipped" role="alert">{{ trouble }}</p>
    <div class="d-flex flex-wrap gap-2">
      <BButton type="submit" variant="primary" :disabled="!typed">Go on</BButton>
      <BButton v-if="pinAsked" variant="plain" @click="byPassword = true">By password</BButton>
      <BButton variant="plain" @click="somebodyElse">Somebody else</BButton>
    </div>
  </form>
</template>
