<script setup lang="ts">
/** One source sheet: the matrix of what is clean where, what governs, what to set, and how far units differ. */
import { useQuery, useQueryClient } from '@tanstack/vue-query';
import { computed, ref } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import {
  api,
  type Cell,
  Refusal,
  sourceFileAddress,
  sourceMatrixAddress,
  sourceTagAddress,
  type SourceSheet,
  type Tried,
  type Unit,
} from '@/api/client';
import NoteBox from '@/components/NoteBox.vue';
import NumbersBy from '@/components/NumbersBy.vue';
import SelectField from '@/components/SelectField.vue';
import { useHeading } from '@/composables/useHeading';
import { formatSigned, formatValue } from '@/support/quantity';
import { SOURCE_KINDS, WAYS } from '@/support/sources';
import { dayInWords } from '@/support/words';
import AddCell from './AddCell.vue';
import AddSetting from './AddSetting.vue';
import MeasureUnit from './MeasureUnit.vue';
import SourceMatrix from './SourceMatrix.vue';
import UnitSpread from './UnitSpread.vue';

useHeading();
const route = useRoute();
const router = useRouter();
const queries = useQueryClient();
const id = computed(() => String(route.params.id));
const unit = ref<string | null>(null);
const { data, error } = useQuery({
  queryKey: computed(() => ['source', id.value, unit.value]),
  queryFn: () => api.source(id.value, unit.value),
  placeholderData: (before) => before,
});
const sheet = computed(() => data.value?.kept.sheet);
const report = computed(() => data.value?.report);
/** Said only where there is more than one way. */
const byWay = computed(() => {
  const numbers = report.value?.never_pass ?? [];
  if (numbers.length < 2) return undefined;
  return numbers.map(({ way, volume }) => ({ of: way ? WAYS[way] : 'as played', volume }));
});
const shownUnit = computed({
  get: () => report.value?.unit?.id ?? null,
  set: (key: string | null) => (unit.value = key),
});
const units = computed(() =>
  (sheet.value?.units ?? []).map((unit) => ({ value: unit.id as string | null, text: unit.name || unit.id })),
);

const trouble = ref('');
async function trying(work: () => Promise<unknown>): Promise<void> {
  trouble.value = '';
  const own = id.value;
  try {
    await work();
  } catch (problem) {
    if (!(problem instanceof Refusal)) throw problem;
    trouble.value = problem.message;
  } finally {
    // After a refusal, too: somebody else may have changed it.
    await Promise.all(
      [['source', own], ['sources']].map((queryKey) => queries.invalidateQueries({ queryKey })),
    );
  }
}
const save = (now: SourceSheet) =>
  trying(() => api.saveSource(id.value, { base_version: data.value?.kept.version ?? 1, sheet: now }));
/** What was measured by hand joins the unit that is shown, or the first one. */
function joined(change: (unit: Unit) => Unit): void {
  if (!sheet.value) return;
  const own = shownUnit.value ?? 'unit-1';
  const before = sheet.value.units ?? [];
  const now = before.length ? before : [{ id: own, name: '', note: '', cells: [], tried: [] }];
  void save({ ...sheet.value, units: now.map((unit) => (unit.id === own ? change(unit) : unit)) });
}
const add = (cell: Cell) => joined((unit) => ({ ...unit, cells: [...(unit.cells ?? []), cell] }));
const addTried = (tried: Tried) => joined((unit) => ({ ...unit, tried: [...(unit.tried ?? []), tried] }));
const inBin = computed(() => data.value?.kept.deleted_at != null);
const bin = (there: boolean) =>
  trying(async () => {
    await api.binSource(id.value, there);
    if (there) await router.push({ name: 'sources' });
  });

const other = ref('');
const { data: list } = useQuery({ queryKey: ['sources', 'all'], queryFn: () => api.sources({ limit: 100 }) });
const others = computed(() => [
  { value: '', text: 'nothing' },
  ...(list.value?.sources ?? [])
    .filter((source) => source.id !== id.value)
    .map((source) => ({ value: source.id, text: source.name })),
]);
const { data: beside } = useQuery({
  queryKey: computed(() => ['source', id.value, 'beside', other.value]),
  queryFn: () => api.compareSources(id.value, other.value),
  enabled: computed(() => other.value !== ''),
});
const otherName = computed(() => others.value.find((choice) => choice.value === other.value)?.text ?? '');
const outputName = (key: string) => sheet.value?.outputs.find((output) => output.id === key)?.name || key;
function called(cell: Cell): string {
  const told = [
    outputName(cell.output),
    cell.side ? `${cell.side} side` : '',
    cell.way ? WAYS[cell.way] : '',
  ];
  return told.filter(Boolean).join(', ');
}
const print = () => window.print();
const measuring = ref(false);
</script>

<template>
  <section v-if="error && !data" class="sheet">
    <h1 ref="heading" tabindex="-1">This source can’t be opened</h1>
    <p>{{ error.message }}</p>
    <RouterLink :to="{ name: 'sources' }">Go to the sources</RouterLink>
  </section>
  <template v-else-if="sheet && report">
    <div class="d-flex flex-wrap align-items-center justify-content-between gap-2 my-2 no-print">
      <h1 ref="heading" tabindex="-1" class="m-0">{{ sheet.name }}</h1>
      <div class="d-flex flex-wrap gap-2">
        <RouterLink class="btn btn-plain" :to="{ name: 'sources' }">Sources</RouterLink>
        <a class="btn btn-plain" :href="sourceFileAddress(id)" download>Source file</a>
        <a class="btn btn-plain" :href="sourceMatrixAddress(id)" download>Table (CSV)</a>
        <a class="btn btn-plain" :href="sourceTagAddress(id)" download>Shelf tag</a>
        <BButton v-if="!inBin" variant="plain" @click="bin(true)">Move to the bin</BButton>
        <BButton variant="plain" @click="print">Print the sheet</BButton>
        <BButton variant="primary" @click="measuring = !measuring">Measure a unit</BButton>
      </div>
    </div>
    <NoteBox v-if="inBin" kind="edge" role="status">
      This source is in the bin.
      <BButton size="sm" variant="plain" @click="bin(false)">Restore it</BButton>
    </NoteBox>
    <p v-if="trouble" class="said-clipped" role="alert">{{ trouble }}</p>
    <MeasureUnit
      v-if="measuring"
      class="mb-3 no-print"
      :sheet="id"
      :name="sheet.name"
      @close="measuring = false"
    />
    <article class="sheet">
      <header class="sheet-top">
        <div>
          <h2 class="h4 mb-1 d-none d-print-block">{{ sheet.name }}</h2>
          <p class="quiet mb-1">
            {{ SOURCE_KINDS.find((kind) => kind.value === sheet?.kind)?.text }}, volume 0 to
            {{ sheet.top_volume }}
          </p>
          <p v-if="sheet.note" class="mb-1">{{ sheet.note }}</p>
          <SelectField v-if="units.length > 1" v-model="shownUnit" label="Unit" :options="units" />
          <p v-else-if="report.unit?.name" class="mb-0">Unit: {{ report.unit.name }}</p>
          <ul v-if="report.advice.length" class="advice">
            <li v-for="line in report.advice" :key="line">{{ line }}</li>
          </ul>
        </div>
        <div v-if="report.governing" class="never-pass">
          <span class="digits">{{ report.governing.volume }}</span>
          <p class="mb-0 fw-bold">
            Never pass it: the lowest clean number, by {{ called(report.governing.cell) }}.
          </p>
          <NumbersBy title="By way of playing" :numbers="byWay" />
          <NumbersBy
            title="By kind of output"
            :numbers="report.by_kind.map(({ words, volume }) => ({ of: words, volume }))"
          />
          <p v-if="report.lowest" class="mb-0">{{ report.lowest }}.</p>
        </div>
      </header>
      <SourceMatrix v-if="report.matrix" :matrix="report.matrix" :top="sheet.top_volume" />
      <NoteBox v-else kind="plain">Nothing was measured yet: add what a meter shows below.</NoteBox>
      <section v-if="report.combinations.length > 1">
        <h2 class="h5 mt-3">Setting with the most clean volts</h2>
        <div class="table-responsive">
          <table class="table digits">
            <thead>
              <tr>
                <th scope="col">Output</th>
                <th scope="col">Settings</th>
                <th scope="col" class="text-end">Clean maximum</th>
                <th scope="col" class="text-end">Volts</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="(combination, place) in report.combinations" :key="place">
                <th scope="row">{{ called(combination.cell) }}</th>
                <td>{{ combination.settings }}</td>
                <td class="text-end">{{ combination.cell.clean }}</td>
                <td class="text-end text-nowrap">
                  {{ formatValue(combination.cell.clean_v ?? 0, 'V') }}
                  <small v-if="combination.more_db" class="quiet d-block"
                    >{{ formatSigned(combination.more_db, 1) }} dB</small
                  >
                </td>
              </tr>
            </tbody>
          </table>
        </div>
      </section>
      <section v-if="report.costs.length">
        <h2 class="h5 mt-3">Effect of settings</h2>
        <ul>
          <li v-for="(cost, place) in report.costs" :key="place">{{ cost.words }}</li>
        </ul>
      </section>
      <UnitSpread v-if="units.length > 1" :spreads="report.spreads" :units="units.length" :called="called" />
    </article>
    <AddCell class="mt-3 no-print" :sheet="sheet" @add="add" />
    <AddSetting class="mt-3 no-print" :sheet="sheet" @add="addTried" />
    <section class="sheet mt-3 no-print">
      <SelectField v-model="other" label="Compare with another source" :options="others" />
      <div v-if="beside" class="table-responsive">
        <p v-if="!beside.length" class="quiet mb-0">No output is called alike in both.</p>
        <table v-else class="table digits mb-0">
          <thead>
            <tr>
              <th scope="col">Output</th>
              <th scope="col" class="text-end">{{ sheet.name }}</th>
              <th scope="col" class="text-end">{{ otherName }}</th>
              <th scope="col" class="text-end">More</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="line in beside" :key="line.words">
              <th scope="row">{{ line.words }}</th>
              <td v-for="side in [0, 1] as const" :key="side" class="text-end">
                {{ line.volts[side] == null ? '–' : formatValue(line.volts[side], 'V') }}
                <span class="quiet">to {{ line.clean[side] }}</span>
              </td>
              <td class="text-end">{{ line.db == null ? '' : `${formatSigned(line.db, 1)} dB` }}</td>
            </tr>
          </tbody>
        </table>
      </div>
    </section>
    <p v-if="report.unit?.cells?.length" class="quiet mt-2 no-print">
      Last measured
      {{
        dayInWords(
          new Date(
            (report.unit.cells ?? [])
              .map((cell) => cell.taken_on ?? '')
              .sort()
              .at(-1) || data!.kept.changed_at,
          ),
        )
      }}.
    </p>
  </template>
  <p v-else class="quiet" role="status">Opening the source …</p>
</template>

<style scoped>
.advice {
  margin: 0.6rem 0 0;
  padding-left: 1.2rem;
}
</style>
