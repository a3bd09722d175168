<script setup lang="ts">
import { useColorMode } from 'bootstrap-vue-next/composables/useColorMode';
import { computed } from 'vue';
import { useDoor } from '@/composables/useDoor';
import { useInstruments } from '@/composables/useInstruments';
import { usePreferences } from '@/composables/usePreferences';
import { decimalMark } from '@/support/decimalMark';
import { LARGEST_ERROR_PERCENT } from '@/support/meterError';
import InfoDialog from './InfoDialog.vue';
import QuantityField from './QuantityField.vue';
import SelectField from './SelectField.vue';
import TextField from './TextField.vue';

const open = defineModel<boolean>({ required: true });
const preferences = usePreferences();
const { person, locked } = useDoor();
const theme = useColorMode({ persist: true, storageKey: 'rook.theme', disableTransition: false });
const THEMES = [
  { value: 'auto' as const, text: 'As the device' },
  { value: 'light' as const, text: 'Light' },
  { value: 'dark' as const, text: 'Dark' },
];
const MARKS = [
  { value: '.' as const, text: 'Point' },
  { value: ',' as const, text: 'Comma' },
];
const errorProblem = computed(() =>
  Math.abs(preferences.value.meterError) > LARGEST_ERROR_PERCENT
    ? `At most ${LARGEST_ERROR_PERCENT} %: it isn’t used. Have the meter checked.`
    : '',
);
const { typed } = useInstruments();
const meters = computed(() => typed.value.map((meter) => ({ value: meter.id, text: meter.name })));
/** The one that is typed from, whether or not the bench is read just now. */
const meter = computed({
  get: () => preferences.value.typedMeter,
  set: (id: string) => {
    if (preferences.value.meter !== 'simulated') preferences.value.meter = id;
    preferences.value.typedMeter = id;
    preferences.value.meterAsked = true;
  },
});
</script>

<template>
  <InfoDialog v-model="open" title="Settings">
    <p v-if="person" class="mb-2">
      Signed in as <strong>{{ person.name }}</strong>. Your readings and answers carry this name.
      <RouterLink class="tap" :to="{ name: 'people' }" @click="open = false">People and devices</RouterLink>
    </p>
    <BFormGroup v-else label="Your name" label-for="your-name" description="Your readings carry this name.">
      <BFormInput id="your-name" v-model.trim="preferences.name" maxlength="80" autocomplete="name" />
    </BFormGroup>
    <SelectField
      v-model="meter"
      class="mt-3"
      label="Your meter"
      :options="meters"
      hint="Each reading gets its accuracy."
    />
    <QuantityField
      v-model="preferences.meterError"
      :usual="0"
      label="Its display is too high by"
      kind="percent"
      hint="If you know its error. Below zero if it shows too little. Volts are corrected as they are saved; both figures are kept."
      :problem="errorProblem"
    />
    <SelectField v-model="theme" label="Theme" :options="THEMES" />
    <SelectField v-model="decimalMark" label="Decimal mark" :options="MARKS" />
    <TextField v-model="preferences.shop" label="Workshop" hint="Printed on the result sheet." />
    <BFormCheckbox v-model="preferences.sounds" switch class="mt-2">
      Sounds in the run: a pitch that rises towards the target, a buzz when over
    </BFormCheckbox>
    <BFormCheckbox v-model="preferences.letterKeys" switch class="mt-3">
      Single-letter shortcuts in the run (turn off if you use dictation)
    </BFormCheckbox>
    <p v-if="!locked" class="quiet mt-3 mb-0">No sign-in: only this computer can open the app.</p>
    <p class="mt-3 mb-0">
      <a href="/third-party.txt" target="_blank" rel="noopener">Included software and licences</a>
    </p>
  </InfoDialog>
</template>
