<script setup lang="ts">
import { useInfiniteQuery } from '@tanstack/vue-query';
import { computed } from 'vue';
import { api, type Reading, type RunView } from '@/api/client';
import FoldBox from '@/components/FoldBox.vue';
import { ofRecord } from '@/support/origin';
import { formatDoubt, formatValue } from '@/support/quantity';
import { formatReading } from '@/support/readings';
import { whenInWords } from '@/support/words';

const props = defineProps<{ view: RunView }>();
const titles = computed(() => new Map(props.view.run.steps.map((step) => [step.key, step.name])));
const { data, fetchNextPage, hasNextPage } = useInfiniteQuery({
  // Under the run's name, so that whatever has the run asked for again has these asked for too.
  queryKey: computed(() => ['run', props.view.job.id, 'readings']),
  queryFn: ({ pageParam }) => api.readings(props.view.job.id, pageParam),
  initialPageParam: null as number | null,
  getNextPageParam: (page) => page.before ?? undefined,
});
/** What was picked in the words of its row, any other reading with its unit. */
function shown(reading: Reading): string {
  const step = props.view.run.steps.find((step) => step.key === reading.step);
  const row = step?.rows?.find((row) => row.key === reading.circumstances.row);
  const picked = row?.choices?.find((choice) => choice.value === reading.value)?.text;
  return picked ?? formatReading(reading.value, reading.quantity, reading.seen);
}
/** Only volts come with the accuracy of a meter. */
const doubt = (reading: Reading) =>
  /volts$/.test(reading.quantity ?? 'ac_volts') ? formatDoubt(reading.uncertainty) : '';
const rows = computed(() => data.value?.pages.flatMap((page) => page.readings) ?? []);
</script>

<template>
  <FoldBox :title="`Every reading (${view.taken})`">
    <div class="table-responsive">
      <table class="table digits">
        <thead>
          <tr>
            <th scope="col">When</th>
            <th scope="col">Step</th>
            <th scope="col" class="text-end">Volume</th>
            <th scope="col" class="text-end">Reading</th>
            <th scope="col">Wave</th>
            <th scope="col">With</th>
            <th scope="col">By</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in rows" :key="row.id">
            <td>{{ whenInWords(row.taken_at) }}</td>
            <td>{{ titles.get(row.step) ?? row.step }}</td>
            <td class="text-end">{{ row.circumstances.volume }}</td>
            <td class="text-end">
              <s v-if="row.struck">{{ shown(row) }}</s>
              <template v-else>{{ shown(row) }}</template>
              <span v-if="row.circumstances.displayed != null" class="quiet">
                (display {{ formatValue(row.circumstances.displayed, 'V') }})
              </span>
              <span class="quiet"> {{ row.struck ? `struck out: ${row.struck}` : doubt(row) }}</span>
            </td>
            <td>{{ row.seen === 'unseen' ? '' : row.seen }}</td>
            <td>{{ row.instrument }}</td>
            <td>{{ ofRecord(row.by, row.arrival, view.origin) }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <BButton v-if="hasNextPage" variant="plain" @click="fetchNextPage()">Older ones</BButton>
  </FoldBox>
</template>
