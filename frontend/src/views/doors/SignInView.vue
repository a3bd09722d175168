<script setup lang="ts">
/** Signs somebody in on this device: by PIN where one opens here, by passkey, by password. */
import { computed, ref } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import { api, type Person } from '@/api/client';
import TextField from '@/components/TextField.vue';
import { useDoor } from '@/composables/useDoor';
import { useHeading } from '@/composables/useHeading';
import { useTrying } from '@/composables/useTrying';
import { canMakePasskeys, signByPasskey } from '@/support/passkeys';
import PasswordField from './PasswordField.vue';

useHeading();
const route = useRoute();
const router = useRouter();
const { device, byPin, locked, entered, look } = useDoor();
const { trouble, trying } = useTrying();
const name = ref('');
const password = ref('');
const whose = ref<string>();
const pin = ref('');
const chosen = computed(() => byPin.value.find((person) => person.id === whose.value));
const unknown = computed(() => locked.value && !device.value);

async function go(who: Person): Promise<void> {
  await entered(who);
  const to = String(route.query.to ?? '/');
  // Only within the app: an address from outside could lead anywhere.
  await router.replace(/^\/(?!\/)/.test(to) ? to : '/');
}
async function enter(): Promise<void> {
  const done = await trying(async () => go(await api.signIn({ name: name.value, password: password.value })));
  if (!done) password.value = '';
}
async function byNumber(): Promise<void> {
  const person = whose.value;
  if (!person) return;
  const done = await trying(async () => go(await api.signInByPin(person, pin.value)));
  if (done) return;
  pin.value = '';
  // After too many wrong ones it is gone.
  await look();
}
const byKey = () =>
  trying(async () => {
    const signed = await signByPasskey(await api.askForPasskey());
    if (signed) await go(await api.signInByPasskey(signed));
  });
</script>

<template>
  <div class="sheet door">
    <h1 ref="heading" tabindex="-1">Sign in</h1>
    <p v-if="unknown" role="status">
      This device isn’t known yet. On a known device, open <strong>People</strong>, show a code, and scan it.
      Or print a link on the server with <code>./rook let-in --device</code>.
    </p>
    <p v-if="trouble" class="said-clipped" role="alert">{{ trouble }}</p>
    <template v-if="!unknown">
      <section v-if="byPin.length" class="mb-3">
        <h2 class="h5">By PIN</h2>
        <div class="d-flex flex-wrap gap-2 mb-2" role="group" aria-label="Person">
          <BButton
            v-for="person in byPin"
            :key="person.id"
            variant="plain"
            :aria-pressed="person.id === whose"
            :class="{ chosen: person.id === whose }"
            @click="whose = person.id"
            >{{ person.name }}</BButton
          >
        </div>
        <form v-if="chosen" @submit.prevent="byNumber">
          <PasswordField
            :key="chosen.id"
            v-model="pin"
            :label="`PIN of ${chosen.name}`"
            autocomplete="off"
            digits
            focused
          />
          <BButton type="submit" variant="primary" :disabled="!pin">Sign in</BButton>
        </form>
      </section>
      <h2 v-if="byPin.length" class="h5">By password</h2>
      <form @submit.prevent="enter">
        <TextField v-model="name" label="Name" />
        <PasswordField v-model="password" label="Password" autocomplete="current-password" />
        <div class="d-flex flex-wrap gap-2">
          <BButton type="submit" variant="primary" :disabled="!name.trim() || !password">Sign in</BButton>
          <BButton v-if="canMakePasskeys()" variant="plain" @click="byKey">By passkey</BButton>
        </div>
      </form>
    </template>
    <p class="quiet mt-3 mb-0">
      Unsaved work stays on this device until you sign in again. Forgot your password? Ask the owner for a new
      link.
    </p>
  </div>
</template>
