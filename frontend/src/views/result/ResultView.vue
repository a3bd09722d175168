<script setup lang="ts">
import { useHeading } from '@/composables/useHeading';
import { useQuery } from '@tanstack/vue-query';
import { computed } from 'vue';
import { api } from '@/api/client';
import TheTower from '@/components/TheTower.vue';
import { useJob } from '@/composables/useJob';
import { formatDoubt, formatNumber, formatValue } from '@/support/quantity';
import { whenInWords } from '@/support/words';
import ReadingRecord from './ReadingRecord.vue';

useHeading();
const { id, view } = useJob();
// Asked anew whenever the run changed.
const { data: result } = useQuery({
  queryKey: computed(() => ['result', id.value, view.value]),
  queryFn: () => api.result(id.value),
  placeholderData: (former) => former,
});
const print = () => window.print();
const LISTS = [
  { key: 'chosen' as const, title: 'Chosen, and to be said' },
  { key: 'stale' as const, title: 'To redo: a setting changed since' },
  { key: 'guessed' as const, title: 'Guessed' },
  { key: 'skipped' as const, title: 'Skipped or left' },
  { key: 'open' as const, title: 'Still open' },
];
const lists = computed(() =>
  LISTS.map((list) => ({ ...list, lines: result.value?.[list.key] ?? [] })).filter(
    (list) => list.lines.length,
  ),
);
</script>

<template>
  <template v-if="result && view">
    <div class="d-flex flex-wrap align-items-center justify-content-between gap-2 mb-2 no-print">
      <h1 ref="heading" tabindex="-1" class="m-0">Result</h1>
      <BButton variant="primary" @click="print">Print the sheet</BButton>
    </div>
    <article class="sheet">
      <header class="top">
        <div>
          <h2 class="mb-1">{{ result.vehicle || 'Unnamed vehicle' }}</h2>
          <p class="quiet mb-2">{{ result.note }}</p>
          <p :class="result.complete ? 'said-clean' : 'said-edge'" class="fw-bold mb-2">
            {{
              result.complete
                ? '✓ Every step is done or was skipped on purpose.'
                : '↻ Not finished: see below.'
            }}
          </p>
        </div>
        <div v-for="top in result.top_volumes" :key="top.source" class="never">
          <span v-if="result.top_volumes.length > 1" class="quiet fw-bold d-block">{{ top.name }}</span>
          <span v-if="top.volume != null" class="digits number">{{ top.volume }}</span>
          <p class="mb-0 fw-bold">{{ top.sentence }}</p>
          <p v-if="top.by_way?.length" class="mb-0">
            By way of playing:
            <template v-for="(one, index) in top.by_way" :key="one.of"
              >{{ index ? ', ' : '' }}{{ one.of }} <strong class="digits">{{ one.volume }}</strong></template
            >.
          </p>
          <p v-if="top.by_output?.length" class="mb-0">
            Last clean number by output:
            <template v-for="(one, index) in top.by_output" :key="one.of"
              >{{ index ? ', ' : '' }}{{ one.of }} <strong class="digits">{{ one.volume }}</strong></template
            >.
          </p>
          <p v-if="top.sureness" class="mb-0">{{ top.sureness.sentence }}</p>
          <p v-if="top.voltage_v != null" class="quiet mb-0">
            The source gives {{ formatValue(top.voltage_v, 'V') }} {{ formatDoubt(top.uncertainty_v) }} V
            there.
          </p>
        </div>
      </header>
      <div class="table-responsive">
        <table class="table digits align-middle outputs">
          <caption class="visually-hidden">
            Outputs as they were left
          </caption>
          <thead>
            <tr>
              <th scope="col">Output</th>
              <th scope="col" class="text-end">Wanted</th>
              <th scope="col" class="text-end">Measured</th>
              <th scope="col" class="text-end">Off by</th>
              <th scope="col" class="text-end">Power</th>
              <th scope="col" class="text-end">At volume</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="one in result.outputs" :key="one.name">
              <th scope="row">
                {{ one.name }}
                <span v-if="one.stale" class="said-edge">↻ to redo</span>
                <span v-if="one.remark" class="d-block fw-normal quiet">{{ one.remark }}</span>
              </th>
              <td class="text-end" data-label="Wanted">{{ formatValue(one.target_v, 'V') }}</td>
              <template v-if="one.voltage_v">
                <td class="text-end" data-label="Measured">
                  <strong>{{ formatValue(one.voltage_v, 'V') }}</strong>&nbsp;
                  <span class="quiet"> {{ formatDoubt(one.uncertainty_v) }}</span>
                </td>
                <td class="text-end" data-label="Off by">
                  <template v-if="one.comparison">
                    {{ one.comparison.db < 0 ? '−' : '+' }}{{ Math.abs(one.comparison.db).toFixed(2) }} dB
                  </template>
                </td>
                <td class="text-end" data-label="Power">
                  {{ formatValue(one.power_w ?? 0, 'W', 3) }}
                  <span class="quiet"> {{ formatDoubt(one.power_uncertainty_w) }}</span>
                </td>
                <td class="text-end" data-label="At volume">{{ one.volume }}</td>
              </template>
              <td v-else colspan="4" class="quiet text-end">not measured</td>
            </tr>
          </tbody>
        </table>
      </div>
      <p class="quiet">
        Power is V²/R with the rated ohms of the speakers, which were disconnected. ± is the meter’s doubt at
        about 95 %.
      </p>
      <div class="row g-3">
        <div class="col-md-7">
          <section v-if="result.left.length">
            <h3 class="h5">As it was left</h3>
            <ul>
              <li v-for="line in result.left" :key="line">{{ line }}</li>
            </ul>
          </section>
          <section v-for="list in lists" :key="list.key">
            <h3 class="h5">{{ list.title }}</h3>
            <ul>
              <li v-for="line in list.lines" :key="line">{{ line }}</li>
            </ul>
          </section>
          <p v-if="!lists.length">Nothing was skipped, guessed or left open.</p>
          <section>
            <h3 class="h5">Parts</h3>
            <p class="mb-1">
              <template v-for="one in view.job.sheet.chain.sources" :key="one.id"
                >{{ one.name || 'Source' }}, volume to {{ one.top_volume }}.
              </template>
              <template v-for="one in view.job.sheet.chain.amplifiers" :key="one.id"
                >{{ one.name || 'Amplifier' }}.
              </template>
              <template v-for="one in view.job.sheet.chain.loads" :key="one.id"
                >{{ one.name || 'Speakers' }}, {{ one.count }} ×
                {{ one.impedance_ohm ? `${formatNumber(one.impedance_ohm)} Ω` : '? Ω' }},
                {{ one.power_w ? `${formatNumber(one.power_w)} W` : '? W' }}.
              </template>
            </p>
            <p class="quiet mb-0">Last touched {{ whenInWords(view.job.changed_at) }}.</p>
          </section>
        </div>
        <div class="col-md-5">
          <TheTower v-for="path in view.run.plan.paths" :key="path.path" :courses="path.courses" />
        </div>
      </div>
      <p class="mt-3 mb-0 fw-bold">
        Do not touch the gain, filters and boost. Boosting bass later undoes this work. The makers’
        instructions and local codes come before this sheet.
      </p>
    </article>
    <ReadingRecord class="mt-3 no-print" :view="view" />
  </template>
</template>

<style scoped lang="scss">
@use '@/styles/breakpoints' as at;

.top {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  gap: 1rem 2rem;
  margin-bottom: 0.8rem;
}
.never {
  max-width: 380px;
  border: 3px solid var(--ink);
  padding: 0.6rem 1rem;
}
.number {
  font-size: 4.6rem;
  line-height: 1;
  font-weight: 650;
}
@media screen {
  @include at.phone {
    .outputs thead {
      display: none;
    }
    .outputs tr {
      display: block;
      padding-bottom: 0.5rem;
      border-bottom: 2px solid var(--ink);
    }
    .outputs :is(th, td) {
      display: flex;
      justify-content: space-between;
      border: 0;
      padding: 0.15rem 0;
    }
    .outputs td::before {
      content: attr(data-label);
      color: var(--grey);
    }
  }
}
@media print {
  .sheet {
    border: 0;
    padding: 0;
  }
}
</style>
