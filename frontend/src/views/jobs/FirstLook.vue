<script setup lang="ts">
/** On the demo: four pages to look at first, in the order of the work. */
import { useQuery } from '@tanstack/vue-query';
import { computed } from 'vue';
import { api } from '@/api/client';
import { usePreferences } from '@/composables/usePreferences';

const preferences = usePreferences();
const { data } = useQuery({ queryKey: ['jobs', 'first-look'], queryFn: () => api.jobs({ practice: false }) });
const jobs = computed(() => data.value?.jobs ?? []);
const standing = (stands: string) => jobs.value.find((job) => job.summary?.stands === stands);
const begun = computed(
  () =>
    jobs.value.find((job) => job.summary?.states?.includes('done') && job.summary.stands === 'open') ??
    jobs.value[0],
);
const stops = computed(() =>
  [
    { job: begun.value, view: 'system', text: 'System', about: 'the parts of every path' },
    { job: begun.value, view: 'plan', text: 'Plan', about: 'target volts, with the arithmetic' },
    {
      job: begun.value,
      view: 'run',
      text: 'Run',
      about: 'one step at a time; press V for the simulated bench',
    },
    {
      job: standing('finished') ?? begun.value,
      view: 'result',
      text: 'Result',
      about: 'the sheet to hand over',
    },
  ].filter((look) => look.job),
);
</script>

<template>
  <section v-if="!preferences.firstLookSeen && stops.length" class="sheet mb-3" aria-labelledby="first-look">
    <div class="d-flex flex-wrap justify-content-between gap-2">
      <h2 id="first-look" class="h5 m-0">First look: four pages</h2>
      <BButton variant="plain" size="sm" @click="preferences.firstLookSeen = true">Hide this</BButton>
    </div>
    <ol class="stops">
      <li v-for="stop in stops" :key="stop.view">
        <div class="d-flex">
          <RouterLink class="tap" :to="{ name: stop.view, params: { id: stop.job?.id ?? '' } }">{{
            stop.text
          }}</RouterLink>
          <span>{{ stop.about }}</span>
        </div>
      </li>
    </ol>
  </section>
</template>

<style scoped>
.stops {
  margin: 0.3rem 0 0;
  padding-left: 1.4rem;
}
.stops .tap {
  flex: none;
  width: 4.5rem;
}
</style>
