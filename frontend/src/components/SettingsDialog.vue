<script setup lang="ts">
import { usePreferences } from '@/composables/usePreferences';
import InfoDialog from './InfoDialog.vue';

const open = defineModel<boolean>({ required: true });
const preferences = usePreferences();
</script>

<template>
  <InfoDialog v-model="open" title="Settings">
    <BFormGroup label="Your name" label-for="your-name" description="Kept with every reading you take.">
      <BFormInput id="your-name" v-model.trim="preferences.name" maxlength="80" autocomplete="name" />
    </BFormGroup>
    <BFormCheckbox v-model="preferences.sounds" switch class="mt-3">
      Sounds in the run: a pitch that rises towards the target, a buzz when over
    </BFormCheckbox>
    <BFormCheckbox v-model="preferences.letterKeys" switch class="mt-3">
      Single letters as keys in the run; off for those who dictate
    </BFormCheckbox>
    <p class="mt-3 mb-0">
      <a href="/third-party.txt" target="_blank" rel="noopener">What ships with the app, and its licences</a>
    </p>
  </InfoDialog>
</template>
