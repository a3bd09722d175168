<script setup lang="ts">
/** Readings and answers of each week as bars, and how many jobs they were of. */
import { computed } from 'vue';
import type { Schemas } from '@/api/client';
import PaperChart from '@/components/PaperChart.vue';
import { numberTicks, type Tick } from '@/support/axes';
import { dateInWords } from '@/support/words';

const props = defineProps<{ weeks: readonly Schemas['WeekWork'][]; since: string; until: string }>();
const DAY_MS = 24 * 3600 * 1000;
const dayOf = (date: string): number => Date.parse(date) / DAY_MS;
/** Whole weeks, so that no bar is cut: the first of January 1970 was a Thursday. */
const mondayOf = (day: number): number => day - ((day + 3) % 7);
const x = computed(() => ({ from: mondayOf(dayOf(props.since)), to: mondayOf(dayOf(props.until)) + 7 }));
const most = computed(() => Math.max(1, ...props.weeks.map((week) => week.readings + week.answers)));
const y = computed(() => ({ from: 0, to: most.value * 1.08 }));
const yTicks = computed(() => numberTicks(0, y.value.to, 4).filter((tick) => Number.isInteger(tick.at)));
/** The first of each month, or each Monday where that is all there is. */
const xTicks = computed<Tick[]>(() => {
  const days = Array.from(
    { length: x.value.to - x.value.from },
    (_, day) => new Date((x.value.from + day) * DAY_MS),
  );
  const monthly = days.length > 70;
  return days
    .filter((day) => (monthly ? day.getUTCDate() === 1 : day.getUTCDay() === 1))
    .map((day) => ({
      at: day.getTime() / DAY_MS,
      text: day.toLocaleDateString('en-GB', {
        month: 'short',
        ...(monthly ? {} : { day: 'numeric' }),
        timeZone: 'UTC',
      }),
    }));
});
const spoken = (week: Schemas['WeekWork']): string =>
  `Week of ${dateInWords(week.monday)}: ${week.readings} readings and ${week.answers} answers in ${week.jobs} ${week.jobs === 1 ? 'job' : 'jobs'}`;
const label = computed(() => `Work by week. ${props.weeks.map(spoken).join('. ')}`);
</script>

<template>
  <PaperChart
    :x="x"
    :y="y"
    :x-ticks="xTicks"
    :y-ticks="yTicks"
    :label="label"
    x-unit=""
    y-unit="records"
    :tall="160"
  >
    <template #default="{ atX, atY, height }">
      <g v-for="week in weeks" :key="week.monday">
        <title>{{ spoken(week) }}</title>
        <rect
          class="readings"
          :x="atX(dayOf(week.monday)) + 1"
          :y="atY(week.readings)"
          :width="Math.max(1, atX(dayOf(week.monday) + 7) - atX(dayOf(week.monday)) - 2)"
          :height="height - atY(week.readings)"
        />
        <rect
          class="answers"
          :x="atX(dayOf(week.monday)) + 1"
          :y="atY(week.readings + week.answers)"
          :width="Math.max(1, atX(dayOf(week.monday) + 7) - atX(dayOf(week.monday)) - 2)"
          :height="atY(week.readings) - atY(week.readings + week.answers)"
        />
      </g>
    </template>
  </PaperChart>
</template>

<style scoped>
.readings {
  fill: var(--ink);
}
.answers {
  fill: var(--stone);
  stroke: var(--ink);
  stroke-width: 1;
}
</style>
