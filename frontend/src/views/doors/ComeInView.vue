<script setup lang="ts">
/**
 * In by a link that works once: somebody new, somebody with a new password, or a device alone. The link stands behind
 * the address's hash, which is sent to nobody.
 */
import { useQuery } from '@tanstack/vue-query';
import { computed, ref } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import { api } from '@/api/client';
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
const ready = computed(() =>
  alone.value
    ? device.value.trim()
    : password.value && (wanted.value?.kind === 'password' || name.value.trim()),
);

const comeIn = () =>
  trying(async () => {
    if (alone.value) {
      await api.pair(link.value, device.value);
      await look();
      await router.replace({ name: 'sign-in' });
      return;
    }
    const body = { link: link.value, name: name.value, password: password.value, device: device.value };
    await entered(await api.comeIn(body));
    await router.replace('/');
  });
</script>

<template>
  <form class="sheet door" @submit.prevent="comeIn">
    <h1 ref="heading" tabindex="-1">Come in</h1>
    <p v-if="!link" class="said-clipped" role="alert">
      This address lacks its link: open it as it was given to you.
    </p>
    <p v-else-if="error" class="said-clipped" role="alert">{{ error.message }}</p>
    <template v-else-if="wanted">
      <p v-if="alone">This device will be known in the workshop; then people sign in on it.</p>
      <p v-else-if="wanted.kind === 'password'">
        A new password for <strong>{{ wanted.name }}</strong>: the former one and every PIN end, and you are
        signed out everywhere else.
      </p>
      <p v-else-if="wanted.role">
        You come in as <strong>{{ roleInWords(wanted.role) }}</strong>.
      </p>
      <TextField
        v-if="wanted.kind === 'person'"
        v-model="name"
        label="Your name"
        hint="It stands with everything you do"
      />
      <PasswordField
        v-if="!alone"
        v-model="password"
        label="A password"
        autocomplete="new-password"
        hint="10 characters at least; a few words are easy to type"
      />
      <TextField v-model="device" label="This device" hint="For example: tablet, bay 2" />
      <p v-if="trouble" class="said-clipped" role="alert">{{ trouble }}</p>
      <BButton type="submit" variant="primary" :disabled="!ready">{{
        alone ? 'Let this device in' : 'Come in'
      }}</BButton>
      <TrustNote class="mt-3" />
    </template>
  </form>
</template>
