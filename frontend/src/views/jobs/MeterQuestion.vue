<script setup lang="ts">
/** Asked once on each device: the meter that most readings are typed from. */
import { useInstruments } from '@/composables/useInstruments';
import { usePreferences } from '@/composables/usePreferences';

const preferences = usePreferences();
const { typed } = useInstruments();
function choose(meter: string): void {
  preferences.value.meter = meter;
  preferences.value.typedMeter = meter;
  preferences.value.meterAsked = true;
}
</script>

<template>
  <section v-if="!preferences.meterAsked" class="sheet mb-3" aria-labelledby="which-meter">
    <h2 id="which-meter" class="h5">Your meter</h2>
    <p class="quiet mb-2">Each reading gets the accuracy of this meter. Change it in Settings at any time.</p>
    <div class="d-flex flex-wrap gap-2" :class="{ waiting: !typed.length }">
      <BButton v-for="meter in typed" :key="meter.id" variant="plain" @click="choose(meter.id)">{{
        meter.name
      }}</BButton>
      <BButton v-if="typed.length" variant="plain" @click="preferences.meterAsked = true">Not sure</BButton>
    </div>
  </section>
</template>

<style scoped lang="scss">
@use '@/styles/breakpoints' as at;

/* The room that the meters take. */
.waiting {
  align-content: start;
  @include at.phone {
    min-height: 13.4rem;
  }
}
</style>
