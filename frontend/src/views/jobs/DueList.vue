<script setup lang="ts">
/** Vehicles that were promised for a day, the next one first. */
import { useQuery } from '@tanstack/vue-query';
import { computed } from 'vue';
import { api } from '@/api/client';
import { dateInWords, todayAsWritten } from '@/support/words';

const SHOWN = 5;
const { data } = useQuery({ queryKey: ['due'], queryFn: api.due });
const rows = computed(() => data.value?.slice(0, SHOWN) ?? []);
const more = computed(() => (data.value?.length ?? 0) - rows.value.length);
const DAY_MS = 24 * 3600 * 1000;

function until(day: string): string {
  const days = Math.round((Date.parse(day) - Date.parse(todayAsWritten())) / DAY_MS);
  if (days === 0) return 'today';
  if (days === 1) return 'tomorrow';
  return days > 0 ? `in ${days} days` : `${-days} ${days === -1 ? 'day' : 'days'} late`;
}
const isLate = (day: string) => day < todayAsWritten();
</script>

<template>
  <section v-if="rows.length" class="sheet mb-2" aria-label="Due">
    <div class="d-flex flex-wrap align-items-center justify-content-between gap-2">
      <h2 class="h5 m-0">Due</h2>
      <a class="btn btn-plain" href="/api/due.ics" download>As a calendar</a>
    </div>
    <ul class="list-unstyled m-0">
      <li v-for="row in rows" :key="row.job">
        <RouterLink class="due" :to="{ name: 'job', params: { id: row.job } }">
          <strong>{{ row.vehicle || 'Unnamed vehicle' }}</strong>
          <span :class="isLate(row.due_on) ? 'said-clipped' : 'quiet'">
            {{ dateInWords(row.due_on) }}, {{ until(row.due_on) }}
          </span>
        </RouterLink>
      </li>
    </ul>
    <p v-if="more > 0" class="quiet m-0">{{ more }} more in the calendar.</p>
  </section>
</template>

<style scoped>
.due {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  align-items: center;
  gap: 0 1rem;
  min-height: 44px;
  color: inherit;
  text-decoration: none;
}
.due strong {
  text-decoration: underline;
}
</style>
