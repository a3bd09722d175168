<script setup lang="ts">
/** How one comes in oneself: password, PIN on this device, passkeys; locking and signing out. */
import { useQuery, useQueryClient } from '@tanstack/vue-query';
import { computed, ref } from 'vue';
import { api, type Person } from '@/api/client';
import FoldBox from '@/components/FoldBox.vue';
import { useDoor } from '@/composables/useDoor';
import { useTrying } from '@/composables/useTrying';
import { canMakePasskeys, makePasskey } from '@/support/passkeys';
import { roleInWords } from '@/support/roles';
import { dateInWords } from '@/support/words';
import PasswordField from './PasswordField.vue';

const props = defineProps<{ person: Person }>();
const queries = useQueryClient();
const { device, byPin, entered, signOut, lock, look } = useDoor();
const { trouble, said, trying } = useTrying();
const { data: passkeys } = useQuery({ queryKey: ['passkeys'], queryFn: api.passkeys });
const hasPin = computed(() => byPin.value.some((person) => person.id === props.person.id));

const former = ref('');
const password = ref('');
const endPasskeys = ref(false);
const change = () =>
  trying(async () => {
    await entered(
      await api.changePassword({
        former: former.value,
        password: password.value,
        end_passkeys: endPasskeys.value,
      }),
    );
    former.value = password.value = '';
  }, 'Your password is another one; you are signed out everywhere else.');
const own = ref('');
const pin = ref('');
const setPin = () =>
  trying(async () => {
    await api.setPin({ password: own.value, pin: pin.value });
    own.value = pin.value = '';
    await look();
  }, 'Your PIN opens on this device, and on no other.');
const endPin = () =>
  trying(async () => {
    await api.endPin();
    await look();
  }, 'No PIN of yours opens here any more.');
const refreshed = () => queries.invalidateQueries({ queryKey: ['passkeys'] });
const addKey = () =>
  trying(async () => {
    const made = await makePasskey(await api.offerPasskey());
    if (made) await api.addPasskey(device.value?.name ?? 'a device', made);
    await refreshed();
  });
const removeKey = (id: string) =>
  trying(async () => {
    await api.removePasskey(id);
    await refreshed();
  }, 'That passkey opens nothing any more.');
</script>

<template>
  <section class="sheet mb-3">
    <div class="d-flex flex-wrap align-items-start justify-content-between gap-2">
      <div>
        <h2 class="h4 mb-0">{{ person.name }}</h2>
        <p class="quiet mb-2">
          {{ roleInWords(person.role) }}, signed in on {{ device?.name || 'this device' }}.
        </p>
      </div>
      <div class="d-flex gap-2">
        <BButton variant="plain" @click="trying(lock)">Lock</BButton>
        <BButton variant="plain" @click="trying(signOut)">Sign out</BButton>
      </div>
    </div>
    <p v-if="trouble" class="said-clipped" role="alert">{{ trouble }}</p>
    <p v-if="said" class="said-clean" role="status">{{ said }}</p>
    <FoldBox :title="hasPin ? 'PIN on this device: set' : 'PIN on this device: none'">
      <form class="door" @submit.prevent="setPin">
        <p class="quiet mb-2">For shared devices. Five wrong attempts disable the PIN.</p>
        <PasswordField v-model="own" label="Your password" autocomplete="current-password" />
        <PasswordField v-model="pin" label="PIN" autocomplete="off" digits hint="4 to 8 digits" />
        <div class="d-flex gap-2">
          <BButton type="submit" variant="primary" :disabled="!own || !pin">Set it</BButton>
          <BButton v-if="hasPin" variant="plain" @click="endPin">End it</BButton>
        </div>
      </form>
    </FoldBox>
    <FoldBox :title="`Passkeys: ${passkeys?.length || 'none'}`">
      <ul v-if="passkeys?.length" class="people-rows mb-2">
        <li v-for="passkey in passkeys" :key="passkey.id">
          <span
            ><strong>{{ passkey.name }}</strong>
            <span class="quiet">since {{ dateInWords(passkey.created_at) }}</span></span
          >
          <BButton
            variant="plain"
            :aria-label="`Remove the passkey of ${passkey.name}`"
            @click="removeKey(passkey.id)"
            >Remove</BButton
          >
        </li>
      </ul>
      <BButton v-if="canMakePasskeys()" variant="plain" @click="addKey">Make one on this device</BButton>
      <p v-else class="quiet mb-0">
        Use a PIN on this device instead. A passkey needs a name in the address, such as workshop.local, and a
        browser that can make one.
      </p>
    </FoldBox>
    <FoldBox title="Another password">
      <form class="door" @submit.prevent="change">
        <PasswordField v-model="former" label="The present one" autocomplete="current-password" />
        <PasswordField
          v-model="password"
          label="The new one"
          autocomplete="new-password"
          hint="10 characters at least"
        />
        <BFormCheckbox v-if="passkeys?.length" v-model="endPasskeys" class="mb-2">
          End my {{ passkeys.length === 1 ? 'passkey' : `${passkeys.length} passkeys` }} as well
        </BFormCheckbox>
        <BButton type="submit" variant="primary" :disabled="!former || !password">Change it</BButton>
      </form>
    </FoldBox>
  </section>
</template>
