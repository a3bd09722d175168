<script setup lang="ts">
/** Who is here, on which devices; how one comes in oneself. */
import { computed } from 'vue';
import { useDoor } from '@/composables/useDoor';
import { useHeading } from '@/composables/useHeading';
import OwnEntry from './OwnEntry.vue';
import TheDevices from './TheDevices.vue';
import TheTrail from './TheTrail.vue';
import { useDevices, usePeople } from './useWorkshop';
import WhoIsHere from './WhoIsHere.vue';

useHeading();
const { person, locked, may } = useDoor();
const isOwner = computed(() => person.value !== null && may('people'));
// All at once: a list that comes late would push a button from under the finger.
const { data: people } = usePeople(isOwner);
const { data: devices } = useDevices(isOwner);
</script>

<template>
  <h1 ref="heading" tabindex="-1" class="my-2">People</h1>
  <p v-if="!locked" class="sheet">
    Nothing signed in: only this computer can open the app. For several people and devices, start it on the
    workshop’s network with
    <code>./rook serve --lan</code>.
  </p>
  <template v-else-if="person">
    <OwnEntry :person="person" />
    <template v-if="isOwner && people && devices">
      <WhoIsHere :person="person" />
      <TheDevices />
      <TheTrail />
    </template>
  </template>
</template>
