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

const told = (device: Device) =>
  [
    device.id === own.value?.id && 'this one',
    device.person?.name,
    `seen ${whenInWords(device.seen_at)}`,
    device.locks_after_min && `locks after ${device.locks_after_min} min`,
  ]
    .filter(Boolean)
    .join(', ');
const refreshed = () => Promise.all([queries.invalidateQueries({ queryKey: ['devices'] }), look()]);
const show = () =>
  trying(async () => {
    made.value = await api.invite({});
  });
function edit(device: Device): void {
  edited.value = device.id;
  name.value = device.name;
  locks.value = LOCKS.some((lock) => lock.value === String(device.locks_after_min))
    ? String(device.locks_after_min)
    : 'never';
}
const save = (id: string) =>
  trying(async () => {
    const locks_after_min = locks.value === 'never' ? null : Number(locks.value);
    await api.changeDevice(id, { name: name.value, locks_after_min });
    edited.value = undefined;
    await refreshed();
  }, 'Kept.');
const takeAway = (device: Device) =>
  trying(async () => {
    await api.endDevice(device.id);
    await refreshed();
  }, `${device.name} is taken away: whoever was signed in there is out at once.`);
</script>

<template>
  <section class="sheet mb-3">
    <h2 class="h4">Devices</h2>
    <p v-if="trouble" class="said-clipped" role="alert">{{ trouble }}</p>
    <p v-if="said" class="said-clean" role="status">{{ said }}</p>
    <ul class="people-rows">
      <li v-for="device in devices" :key="device.id">
        <form v-if="edited === device.id" class="door" @submit.prevent="save(device.id)">
          <TextField v-model="name" label="Called" hint="For example: tablet, bay 2" />
          <SelectField v-model="locks" label="Left alone" :options="LOCKS" />
          <div class="d-flex gap-2">
            <BButton type="submit" variant="primary" :disabled="!name.trim()">Keep</BButton>
            <BButton variant="plain" @click="edited = undefined">Leave it</BButton>
          </div>
        </form>
        <template v-else>
          <span
            ><strong>{{ device.name }}</strong> {{ told(device) }}</span
          >
          <span class="d-flex flex-wrap justify-content-end gap-2">
            <BButton variant="plain" :aria-label="`Change ${device.name}`" @click="edit(device)"
              >Change</BButton
            >
            <BButton
              v-if="device.id !== own?.id"
              variant="plain"
              :aria-label="`Remove ${device.name}`"
              @click="takeAway(device)"
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
