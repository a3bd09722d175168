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
function shown(one: Reading): string {
  const step = props.view.run.steps.find((each) => each.key === one.step);
  const row = step?.rows?.find((each) => each.key === one.circumstances.row);
  const picked = row?.choices?.find((each) => each.value === one.value)?.text;
  return picked ?? formatReading(one.value, one.quantity, one.seen);
}
/** Only volts come with the accuracy of a meter. */
const doubt = (one: Reading) =>
  /volts$/.test(one.quantity ?? 'ac_volts') ? formatDoubt(one.uncertainty) : '';
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
          <tr v-for="one in rows" :key="one.id">
            <td>{{ whenInWords(one.taken_at) }}</td>
            <td>{{ titles.get(one.step) ?? one.step }}</td>
            <td class="text-end">{{ one.circumstances.volume }}</td>
            <td class="text-end">
              <s v-if="one.struck">{{ shown(one) }}</s>
              <template v-else>{{ shown(one) }}</template>
              <span v-if="one.circumstances.displayed != null" class="quiet">
                (display {{ formatValue(one.circumstances.displayed, 'V') }})
              </span>
              <span class="quiet"> {{ one.struck ? `struck out: ${one.struck}` : doubt(one) }}</span>
            </td>
            <td>{{ one.seen === 'unseen' ? '' : one.seen }}</td>
            <td>{{ one.instrument }}</td>
            <td>{{ ofRecord(one.by, one.arrival, view.origin) }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <BButton v-if="hasNextPage" variant="plain" @click="fetchNextPage()">Older ones</BButton>
  </FoldBox>
</template>
