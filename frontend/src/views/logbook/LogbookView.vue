<script setup lang="ts">
/** Work of a time over all jobs: who did what, and which steps take long, are skipped or done again. */
import { keepPreviousData, useQuery } from '@tanstack/vue-query';
import { computed, ref } from 'vue';
import { api } from '@/api/client';
import DayField from '@/components/DayField.vue';
import { useHeading } from '@/composables/useHeading';
import { formatNumber } from '@/support/quantity';
import { daysBefore, todayAsWritten } from '@/support/words';
import WeekChart from './WeekChart.vue';

useHeading();
const PERIODS = [
  { days: 7, text: 'A week' },
  { days: 30, text: '30 days' },
  { days: 90, text: '90 days' },
  { days: 365, text: 'A year' },
];
const until = ref<string | null>(todayAsWritten());
const since = ref<string | null>(daysBefore(todayAsWritten(), 30));
const period = computed(() => ({
  since: since.value ?? daysBefore(todayAsWritten(), 30),
  until: until.value ?? todayAsWritten(),
}));
const { data, error } = useQuery({
  queryKey: computed(() => ['logbook', period.value]),
  queryFn: () => api.logbook(period.value),
  placeholderData: keepPreviousData,
});
function show(days: number): void {
  until.value = todayAsWritten();
  since.value = daysBefore(until.value, days);
}
const isShown = (days: number) =>
  period.value.until === todayAsWritten() && period.value.since === daysBefore(period.value.until, days);
const table = (part: string) =>
  `/api/logbook/${part}.csv?since=${period.value.since}&until=${period.value.until}`;
/** The longest bar is the step that took longest. */
const longest = computed(() => Math.max(1, ...(data.value?.steps.map((step) => step.median_s ?? 0) ?? [])));
function minutes(seconds: number | null): string {
  if (seconds === null) return '';
  return seconds < 60 ? `${Math.round(seconds)} s` : `${formatNumber(seconds / 60, 2)} min`;
}
</script>

<template>
  <div class="d-flex flex-wrap align-items-center justify-content-between gap-2 my-2">
    <h1 ref="heading" class="m-0" tabindex="-1">Logbook</h1>
    <RouterLink class="btn btn-plain" :to="{ name: 'jobs' }">Jobs</RouterLink>
  </div>
  <div class="period">
    <DayField v-model="since" label="From" />
    <DayField v-model="until" label="To" />
    <div class="d-flex flex-wrap gap-1" role="group" aria-label="Time to show">
      <BButton
        v-for="span in PERIODS"
        :key="span.days"
        :variant="isShown(span.days) ? 'primary' : 'plain'"
        :aria-pressed="isShown(span.days)"
        @click="show(span.days)"
        >{{ span.text }}</BButton
      >
    </div>
  </div>
  <p v-if="error" class="said-clipped" role="alert">{{ error.message }}</p>
  <p v-else-if="!data" class="quiet" role="status">Counting …</p>
  <p v-else-if="!data.jobs" class="sheet" role="status">Nothing was measured or answered in that time.</p>
  <template v-else>
    <section class="sheet mb-3" aria-label="Weeks">
      <div class="d-flex flex-wrap align-items-center justify-content-between gap-2">
        <h2 class="h4 m-0">Weeks</h2>
        <a class="btn btn-plain" :href="table('weeks')" download>As a table</a>
      </div>
      <WeekChart :weeks="data.weeks" :since="data.since" :until="data.until" />
      <p class="quiet mb-0">Filled: readings. Above them: answers.</p>
    </section>
    <section class="sheet mb-3" aria-label="People">
      <div class="d-flex flex-wrap align-items-center justify-content-between gap-2">
        <h2 class="h4 m-0">
          People <span class="quiet fw-normal">in {{ data.jobs === 1 ? '1 job' : `${data.jobs} jobs` }}</span>
        </h2>
        <a class="btn btn-plain" :href="table('people')" download>As a table</a>
      </div>
      <div class="table-responsive" tabindex="0" role="region" aria-label="Work by person">
        <table class="table digits align-middle m-0 work">
          <thead>
            <tr>
              <th scope="col">Name</th>
              <th scope="col" class="text-end">Jobs</th>
              <th scope="col" class="text-end">Readings</th>
              <th scope="col" class="text-end">Answers</th>
              <th scope="col" class="text-end">Signed off</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="person in data.people" :key="person.name">
              <th scope="row">{{ person.name || 'no name given' }}</th>
              <td class="text-end" data-label="Jobs">{{ person.jobs }}</td>
              <td class="text-end" data-label="Readings">{{ person.readings }}</td>
              <td class="text-end" data-label="Answers">{{ person.answers }}</td>
              <td class="text-end" data-label="Signed off">{{ person.signed }}</td>
            </tr>
          </tbody>
        </table>
      </div>
    </section>
    <section class="sheet" aria-label="Steps">
      <div class="d-flex flex-wrap align-items-center justify-content-between gap-2">
        <h2 class="h4 m-0">Steps</h2>
        <a class="btn btn-plain" :href="table('steps')" download>As a table</a>
      </div>
      <div class="table-responsive" tabindex="0" role="region" aria-label="Work by step">
        <table class="table digits align-middle m-0 work">
          <thead>
            <tr>
              <th scope="col">Step</th>
              <th scope="col" class="text-end">Done</th>
              <th scope="col" class="text-end">Skipped</th>
              <th scope="col" class="text-end">Done again</th>
              <th scope="col" class="text-end">Struck out</th>
              <th scope="col">Usual time</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="step in data.steps" :key="step.family">
              <th scope="row">{{ step.name }}</th>
              <td class="text-end" data-label="Done">{{ step.done }}</td>
              <td class="text-end" data-label="Skipped">{{ step.skipped }}</td>
              <td class="text-end" data-label="Done again">{{ step.redone }}</td>
              <td class="text-end" data-label="Struck out">{{ step.struck }}</td>
              <td class="time" data-label="Usual time">
                <span class="bar" :style="{ width: `${(4 * (step.median_s ?? 0)) / longest}rem` }" />
                {{ minutes(step.median_s ?? null) }}
              </td>
            </tr>
          </tbody>
        </table>
      </div>
      <p class="quiet mb-0 mt-2">
        Half of the steps took longer than the usual time. It runs from the record before to the step’s last
        one; pauses of more than ten minutes are left out. Done again: somebody came back to it after other
        steps. Practice jobs and the bin don’t count.
      </p>
    </section>
  </template>
</template>

<style scoped lang="scss">
@use '@/styles/breakpoints' as at;

.period {
  display: flex;
  flex-wrap: wrap;
  align-items: end;
  gap: 0 1rem;
  margin-bottom: 0.5rem;
}
.period > :last-child {
  margin-bottom: 1.26rem;
}
.time {
  white-space: nowrap;
}
/* On a phone a person or step is a small sheet of its own. */
@include at.phone {
  .work thead {
    display: none;
  }
  .work tr {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 0 1rem;
    padding: 0.4rem 0;
    border-bottom: 1px solid var(--line);
  }
  .work th,
  .work td {
    border: 0;
    padding: 0.1rem 0;
  }
  .work th,
  .work .time {
    grid-column: 1 / -1;
  }
  .work td {
    display: flex;
    justify-content: space-between;
    gap: 0.6rem;
  }
  .work td::before {
    content: attr(data-label);
    color: var(--grey);
  }
  .work .bar {
    display: none;
  }
}
.bar {
  display: inline-block;
  height: 0.7rem;
  margin-right: 0.4rem;
  background: var(--ink);
}
</style>
