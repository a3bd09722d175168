<script setup lang="ts">
import { useHeading } from '@/composables/useHeading';
import { useQuery } from '@tanstack/vue-query';
import { computed, ref } from 'vue';
import { api } from '@/api/client';
import NumbersBy from '@/components/NumbersBy.vue';
import OriginNote from '@/components/OriginNote.vue';
import PathOverview from '@/components/PathOverview.vue';
import RecordedSpectra from '@/components/RecordedSpectra.vue';
import SignalChain from '@/components/SignalChain.vue';
import { useJob } from '@/composables/useJob';
import { usePreferences } from '@/composables/usePreferences';
import { formatDoubt, formatSigned, formatValue } from '@/support/quantity';
import { jobName, whenInWords } from '@/support/words';
import KeepSource from './KeepSource.vue';
import LabelForm from './LabelForm.vue';
import PlugDrawing from './PlugDrawing.vue';
import ReadingRecord from './ReadingRecord.vue';
import SavePapers from './SavePapers.vue';
import SignOff from './SignOff.vue';
import VisitList from './VisitList.vue';

useHeading();
const { id, view } = useJob();
const preferences = usePreferences();
// Asked anew whenever the run changed.
const { data: result } = useQuery({
  queryKey: computed(() => ['result', id.value, view.value]),
  queryFn: () => api.result(id.value),
  placeholderData: (former) => former,
});
/** Of several paths one is shown as a signal chain. */
const paths = computed(() => view.value?.run.plan.paths ?? []);
const chosen = ref<string>();
const shownPath = computed(() => paths.value.find((path) => path.path === chosen.value) ?? paths.value[0]);
/** A source by itself leaves its clean maxima, which go to the library. */
const alone = computed(() => view.value?.job.sheet.subject === 'source');
const practice = computed(() => view.value?.job.sheet.practice ?? false);
const called = computed(() => jobName(view.value?.job.sheet));
const print = () => window.print();
const LISTS = [
  { key: 'chosen' as const, title: 'Chosen: tell the customer' },
  { key: 'outdated' as const, title: 'To redo: a setting has changed' },
  { key: 'guessed' as const, title: 'Guessed' },
  { key: 'skipped' as const, title: 'Skipped or left as is' },
  { key: 'open' as const, title: 'Open' },
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
      <div class="d-flex flex-wrap gap-2">
        <a class="btn btn-plain" :href="`/api/jobs/${view.job.id}/readings.csv`" download
          >Readings as a table</a
        >
        <SavePapers v-if="!alone" :job="view.job.id" :name="called" />
        <BButton variant="primary" @click="print">Print the sheet</BButton>
      </div>
    </div>
    <article class="sheet">
      <header class="sheet-top">
        <div>
          <p v-if="preferences.shop" class="fw-bold mb-0">{{ preferences.shop }}</p>
          <h2 class="mb-1">{{ called }}</h2>
          <p class="quiet mb-2">{{ result.note }}</p>
          <OriginNote v-if="view.origin" :origin="view.origin" />
          <p :class="result.complete ? 'said-clean' : 'said-edge'" class="fw-bold mb-2">
            {{ result.complete ? '✓ Every step is done or skipped.' : '↻ Not finished: see below.' }}
          </p>
        </div>
        <div v-for="top in result.top_volumes" :key="top.source" class="never-pass">
          <span v-if="result.top_volumes.length > 1" class="quiet fw-bold d-block">{{ top.name }}</span>
          <span v-if="top.volume != null" class="digits">{{ top.volume }}</span>
          <p class="mb-0 fw-bold">{{ top.sentence }}</p>
          <NumbersBy title="By way of playing" :numbers="top.by_way" />
          <NumbersBy title="By tone" :numbers="top.by_tone" />
          <NumbersBy
            title="By kind of output"
            :numbers="top.by_kind?.map(({ words, volume }) => ({ of: words, volume }))"
          />
          <NumbersBy title="Clean maximum by output" :numbers="top.by_output" />
          <p v-if="top.not_measured?.length" class="said-edge fw-bold mb-0">
            Not measured: {{ top.not_measured.join(', ') }}
          </p>
          <p v-if="top.holds_with?.length" class="mb-0">Holds only with: {{ top.holds_with.join('; ') }}.</p>
          <p v-if="top.sureness" class="mb-0">{{ top.sureness.sentence }}</p>
          <p v-if="top.voltage_v != null" class="quiet mb-0">
            The source gives {{ formatValue(top.voltage_v, 'V') }} {{ formatDoubt(top.uncertainty_v) }} V
            there.
          </p>
        </div>
      </header>
      <PathOverview
        v-if="paths.length > 1"
        class="overview"
        :paths="paths"
        :chosen="shownPath?.path"
        :chain="view.job.sheet.chain"
        @choose="(path) => (chosen = path)"
      />
      <div v-if="!alone" class="table-responsive long" tabindex="0" role="region" aria-label="Final levels">
        <table class="table digits align-middle outputs">
          <caption class="visually-hidden">
            Final levels
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
            <tr v-for="output in result.outputs" :key="output.name">
              <th scope="row">
                {{ output.name }}
                <span v-if="output.outdated" class="said-edge">↻ to redo</span>
                <span v-if="output.remark" class="d-block fw-normal quiet">{{ output.remark }}</span>
              </th>
              <td class="text-end" data-label="Wanted">{{ formatValue(output.target_v, 'V') }}</td>
              <template v-if="output.voltage_v">
                <td class="text-end" data-label="Measured">
                  <strong>{{ formatValue(output.voltage_v, 'V') }}</strong>&nbsp;
                  <span class="quiet"> {{ formatDoubt(output.uncertainty_v) }}</span>
                </td>
                <td class="text-end" data-label="Off by">
                  <template v-if="output.comparison">
                    {{ formatSigned(output.comparison.db, 2) }} dB
                  </template>
                </td>
                <td class="text-end" data-label="Power">
                  {{ formatValue(output.power_w ?? 0, 'W', 3) }}
                  <span class="quiet"> {{ formatDoubt(output.power_uncertainty_w) }}</span>
                </td>
                <td class="text-end" data-label="At volume">{{ output.volume }}</td>
              </template>
              <td v-else colspan="4" class="quiet text-end">not measured</td>
            </tr>
          </tbody>
        </table>
      </div>
      <p v-if="!alone" class="quiet">
        Power is V²/R with the rated ohms of the speakers, which were disconnected. ± is the meter’s accuracy
        (about 95 %).
      </p>
      <div class="row g-3">
        <div class="col-md-7">
          <section v-if="result.left.length">
            <h3 class="h5">Other settings</h3>
            <ul>
              <li v-for="line in result.left" :key="line">{{ line }}</li>
            </ul>
          </section>
          <section v-if="result.plugs.length">
            <h3 class="h5">Factory plugs</h3>
            <PlugDrawing v-for="plug in result.plugs" :key="plug.name" :plug="plug" />
          </section>
          <RecordedSpectra />
          <section v-for="list in lists" :key="list.key">
            <h3 class="h5">{{ list.title }}</h3>
            <ul class="long" tabindex="0" :aria-label="list.title">
              <li v-for="line in list.lines" :key="line">{{ line }}</li>
            </ul>
          </section>
          <p v-if="!lists.length">Nothing was skipped, guessed or left open.</p>
          <section>
            <h3 class="h5">Parts</h3>
            <ul class="long">
              <li v-for="line in result.parts" :key="line">{{ line }}</li>
            </ul>
            <p class="quiet mb-0">Last changed {{ whenInWords(view.job.changed_at) }}.</p>
          </section>
        </div>
        <div class="col-md-5">
          <template v-if="shownPath">
            <h3 v-if="paths.length > 1" class="h5">{{ shownPath.name }}</h3>
            <SignalChain :stage-levels="shownPath.stage_levels" />
          </template>
        </div>
      </div>
      <p class="mt-3 mb-0 fw-bold">
        Don’t change gain, filters or boost. Boosting bass later undoes this work. The makers’ instructions
        and local codes come before this sheet.
      </p>
    </article>
    <LabelForm v-if="!alone" class="no-print mt-2" :job="view.job.id" :name="called" />
    <p v-if="practice" class="sheet mt-3">Practice job: it cannot be signed off or added to the library.</p>
    <VisitList v-if="!alone" class="mt-3" :job="id" :view="view" />
    <SignOff v-if="!practice" class="mt-3" :job="id" :view="view" :complete="result.complete" />
    <div class="d-flex flex-wrap gap-2 mt-3 no-print">
      <KeepSource
        v-for="top in practice ? [] : result.top_volumes.filter((volume) => volume.volume != null)"
        :key="top.source"
        :job="id"
        :source="top.source"
        :name="top.name"
      />
    </div>
    <ReadingRecord class="mt-3 no-print" :view="view" />
  </template>
</template>

<style scoped lang="scss">
@use '@/styles/breakpoints' as at;

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
