<script setup lang="ts">
/** The devices of the workshop: let in by a code, named, locking themselves, taken away. */
import { useQueryClient } from '@tanstack/vue-query';
import { ref } from 'vue';
import { api, type Device, type Invitation } from '@/api/client';
import SelectField from '@/components/SelectField.vue';
import TextField from '@/components/TextField.vue';
import { useDoor } from '@/composables/useDoor';
import { useTrying } from '@/composables/useTrying';
import { whenInWords } from '@/support/words';
import LinkCode from './LinkCode.vue';
import { useDevices } from './useWorkshop';

const LOCKS = [
  { value: 'never', text: 'Stays open: one person’s own' },
  { value: '2', text: 'Locks after 2 minutes' },
  { value: '5', text: 'Locks after 5 minutes' },
  { value: '15', text: 'Locks after 15 minutes' },
];
const queries = useQueryClient();
const { device: own, look } = useDoor();
const { data: devices } = useDevices();
const { trouble, said, trying } = useTrying();
const made = ref<Invitation>();
const edited = ref<string>();
const name = ref('');
const locks = ref('never');

const told = (one: Device) =>
  [
    one.id === own.value?.id && 'this one',
    one.person?.name,
    `seen ${whenInWords(one.seen_at)}`,
    one.locks_after_min && `locks after ${one.locks_after_min} min`,
  ]
    .filter(Boolean)
    .join(', ');
const refreshed = () => Promise.all([queries.invalidateQueries({ queryKey: ['devices'] }), look()]);
const show = () =>
  trying(async () => {
    made.value = await api.invite({});
  });
function edit(one: Device): void {
  edited.value = one.id;
  name.value = one.name;
  locks.value = LOCKS.some((lock) => lock.value === String(one.locks_after_min))
    ? String(one.locks_after_min)
    : 'never';
}
const save = (id: string) =>
  trying(async () => {
    const locks_after_min = locks.value === 'never' ? null : Number(locks.value);
    await api.changeDevice(id, { name: name.value, locks_after_min });
    edited.value = undefined;
    await refreshed();
  }, 'Kept.');
const takeAway = (one: Device) =>
  trying(async () => {
    await api.endDevice(one.id);
    await refreshed();
  }, `${one.name} is taken away: whoever was signed in there is out at once.`);
</script>

<template>
  <section class="sheet mb-3">
    <h2 class="h4">Devices</h2>
    <p v-if="trouble" class="said-clipped" role="alert">{{ trouble }}</p>
    <p v-if="said" class="said-clean" role="status">{{ said }}</p>
    <ul class="people-rows">
      <li v-for="one in devices" :key="one.id">
        <form v-if="edited === one.id" class="door" @submit.prevent="save(one.id)">
          <TextField v-model="name" label="Called" hint="For example: tablet, bay 2" />
          <SelectField v-model="locks" label="Left alone" :options="LOCKS" />
          <div class="d-flex gap-2">
            <BButton type="submit" variant="primary" :disabled="!name.trim()">Keep</BButton>
            <BButton variant="plain" @click="edited = undefined">Leave it</BButton>
          </div>
        </form>
        <template v-else>
          <span
            ><strong>{{ one.name }}</strong> {{ told(one) }}</span
          >
          <span class="d-flex flex-wrap justify-content-end gap-2">
            <BButton variant="plain" :aria-label="`Change ${one.name}`" @click="edit(one)">Change</BButton>
            <BButton
              v-if="one.id !== own?.id"
              variant="plain"
              :aria-label="`Remove ${one.name}`"
              @click="takeAway(one)"
              >Remove</BButton
            >
          </span>
        </template>
      </li>
    </ul>
    <BButton class="mt-3" variant="primary" @click="show">Show a code for a device</BButton>
    <LinkCode v-if="made" :key="made.link" :made="made" what="Lets a device in" />
  </section>
</template>
