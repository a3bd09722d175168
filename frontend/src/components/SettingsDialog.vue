<script setup lang="ts">
import { useDoor } from '@/composables/useDoor';
import { usePreferences } from '@/composables/usePreferences';
import InfoDialog from './InfoDialog.vue';

const open = defineModel<boolean>({ required: true });
const preferences = usePreferences();
const { person, locked } = useDoor();
</script>

<template>
  <InfoDialog v-model="open" title="Settings">
    <p v-if="person" class="mb-2">
      Signed in as <strong>{{ person.name }}</strong>: that name is kept with all you do.
      <RouterLink class="tap" :to="{ name: 'people' }" @click="open = false">People and devices</RouterLink>
    </p>
    <BFormGroup
      v-else
      label="Your name"
      label-for="your-name"
      description="Kept with every reading you take."
    >
      <BFormInput id="your-name" v-model.trim="preferences.name" maxlength="80" autocomplete="name" />
    </BFormGroup>
    <BFormCheckbox v-model="preferences.sounds" switch class="mt-3">
      Sounds in the run: a pitch that rises towards the target, a buzz when over
    </BFormCheckbox>
    <BFormCheckbox v-model="preferences.letterKeys" switch class="mt-3">
      Single letters as keys in the run; off for those who dictate
    </BFormCheckbox>
    <p v-if="!locked" class="quiet mt-3 mb-0">
      Nobody has to sign in here: only this machine can reach the app.
    </p>
    <p class="mt-3 mb-0">
      <a href="/third-party.txt" target="_blank" rel="noopener">What ships with the app, and its licences</a>
    </p>
  </InfoDialog>
</template>
