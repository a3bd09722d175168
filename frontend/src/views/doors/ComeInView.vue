<script setup lang="ts">
/**
 * In by a link that works once: somebody new, somebody with a new password, or a device alone. The link stands behind
 * the address's hash, which is sent to nobody.
 */
import { useQuery } from '@tanstack/vue-query';
import { computed, ref } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import { api } from '@/api/client';
import SelectField from '@/components/SelectField.vue';
import TextField from '@/components/TextField.vue';
import { useDoor } from '@/composables/useDoor';
import { useHeading } from '@/composables/useHeading';
import { useTrying } from '@/composables/useTrying';
import { deviceName } from '@/support/deviceName';
import { roleInWords } from '@/support/roles';
import PasswordField from './PasswordField.vue';
import TrustNote from './TrustNote.vue';

useHeading();
const route = useRoute();
const router = useRouter();
const { device: known, entered, look } = useDoor();
const { trouble, trying } = useTrying();
const link = computed(() => route.hash.slice(1));
const { data: wanted, error } = useQuery({
  queryKey: computed(() => ['link', link.value]),
  queryFn: () => api.lookAtLink(link.value),
  enabled: computed(() => link.value !== ''),
  retry: false,
});
const name = ref('');
const password = ref('');
const typed = ref<string>();
// A device that is known keeps its name unless another is given.
const device = computed({
  get: () => typed.value ?? known.value?.name ?? deviceName(),
  set: (words) => (typed.value = words),
});
const alone = computed(() => wanted.value?.kind === 'device');
/** Who uses a device that comes in: of the owner's first one nobody is to guess. */
const USERS = [
  { value: 'one', text: 'one person' },
  { value: 'several', text: 'several people: it locks after 5 minutes' },
] as const;
const forOwner = computed(() => wanted.value?.role === 'owner');
const users = ref<'' | 'one' | 'several'>();
const usedBy = computed({
  get: () => users.value ?? (forOwner.value ? '' : alone.value ? 'several' : 'one'),
  set: (who) => (users.value = who),
});
const options = computed(() =>
  usedBy.value === ''
    ? [{ value: '' as const, text: 'choose' }, ...USERS]
    : USERS.map((user) => ({ ...user })),
);
const ready = computed(
  () =>
    (known.value || usedBy.value) &&
    (alone.value
      ? device.value.trim()
      : password.value && (wanted.value?.kind === 'password' || name.value.trim())),
);

const title = computed(() =>
  alone.value
    ? 'Add this device'
    : wanted.value?.kind === 'password'
      ? 'New password'
      : wanted.value?.role === 'owner'
        ? 'Create the owner’s account'
        : 'Create your account',
);
const action = computed(() =>
  alone.value ? 'Add this device' : title.value === 'New password' ? 'Sign in' : title.value,
);

const comeIn = () =>
  trying(async () => {
    if (alone.value) {
      await api.pair(link.value, device.value, usedBy.value === 'several');
      await look();
      await router.replace({ name: 'sign-in' });
      return;
    }
    const body = {
      link: link.value,
      name: name.value,
      password: password.value,
      device: device.value,
      shared: usedBy.value === 'several',
    };
    await entered(await api.comeIn(body));
    await router.replace('/');
  });
</script>

<template>
  <form class="sheet door" @submit.prevent="comeIn">
    <h1 ref="heading" tabindex="-1">{{ title }}</h1>
    <p v-if="!link" class="said-clipped" role="alert">
      This link is incomplete. Open the full link you received.
    </p>
    <p v-else-if="error" class="said-clipped" role="alert">{{ error.message }}</p>
    <template v-else-if="wanted">
      <p v-if="alone">This device becomes known in the workshop. People sign in on it afterwards.</p>
      <p v-else-if="wanted.kind === 'password'">
        New password for <strong>{{ wanted.name }}</strong>. The old password and every PIN end, and you are
        signed out everywhere else.
      </p>
      <p v-else-if="wanted.role">
        Your role: <strong>{{ roleInWords(wanted.role) }}</strong>.
      </p>
      <TextField
        v-if="wanted.kind === 'person'"
        v-model="name"
        label="Your name"
        hint="Shown with everything you do"
      />
      <PasswordField
        v-if="!alone"
        v-model="password"
        label="A password"
        autocomplete="new-password"
        hint="10 characters at least; a few words are easy to type"
      />
      <TextField v-model="device" label="This device" hint="For example: tablet, bay 2" />
      <SelectField
        v-if="!known"
        v-model="usedBy"
        label="Used by"
        :options="options"
        :hint="forOwner ? 'You are signed in as the owner on it from now on.' : ''"
      />
      <p v-if="trouble" class="said-clipped" role="alert">{{ trouble }}</p>
      <BButton type="submit" variant="primary" :disabled="!ready">{{ action }}</BButton>
      <TrustNote class="mt-3" />
    </template>
  </form>
</template>
