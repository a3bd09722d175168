<script setup lang="ts">
import { computed, ref } from 'vue';
import { jobFileAddress } from '@/api/client';
import { useJob } from '@/composables/useJob';
import { usePreferences } from '@/composables/usePreferences';
import { usePreview } from '@/composables/usePreview';
import { useSheetEditor } from '@/composables/useSheetEditor';
import FindingList from '@/components/FindingList.vue';
import TextField from '@/components/TextField.vue';
import TheTower from '@/components/TheTower.vue';
import { formatValue } from '@/support/quantity';
import AmplifierForm from './AmplifierForm.vue';
import BetweenForm from './BetweenForm.vue';
import ChoicesForm from './ChoicesForm.vue';
import ConflictDialog from './ConflictDialog.vue';
import FiltersForm from './FiltersForm.vue';
import PathBar from './PathBar.vue';
import SaveMark from './SaveMark.vue';
import SourceForm from './SourceForm.vue';
import SpeakersForm from './SpeakersForm.vue';

const { id, view, job } = useJob();
const preferences = usePreferences();
const { sheet, state, problems, conflict, edited, settle } = useSheetEditor(
  id,
  job,
  () => preferences.value.name,
);
const chain = computed(() => sheet.value?.chain);
const number = ref(0);
const chosen = computed({
  get: () => Math.min(number.value, Math.max(0, (chain.value?.paths.length ?? 1) - 1)),
  set: (value: number) => (number.value = value),
});
const joined = computed(() => chain.value?.paths[chosen.value]);
const plan = usePreview(
  id,
  sheet,
  computed(() => view.value?.run.plan),
);
const path = computed(() => plan.value?.paths.find((one) => one.path === joined.value?.id));
/** Where the chosen path's parts stand in their lists. */
const at = computed(() => ({
  source: chain.value?.sources.findIndex((one) => one.id === joined.value?.source) ?? -1,
  amplifier: chain.value?.amplifiers.findIndex((one) => one.id === joined.value?.amplifier) ?? -1,
  load: chain.value?.loads.findIndex((one) => one.id === joined.value?.load) ?? -1,
}));
const across = computed(() => plan.value?.crossovers.findings ?? []);
</script>

<template>
  <div class="d-flex flex-wrap align-items-center justify-content-between gap-2 mb-2">
    <h1 class="m-0">System</h1>
    <div class="d-flex flex-wrap align-items-center gap-3">
      <SaveMark :state="state" />
      <a class="btn btn-plain" :href="jobFileAddress(id)" download>Job file</a>
    </div>
  </div>
  <div v-if="sheet && chain" class="row g-3" @input="edited" @change="edited">
    <div class="col-lg-8 d-grid gap-3">
      <section class="sheet">
        <h2 class="h4">Vehicle</h2>
        <div class="row g-2">
          <TextField
            v-model="sheet.vehicle"
            class="col-md-5"
            label="Vehicle"
            :problem="problems['vehicle']"
          />
          <TextField v-model="sheet.note" class="col-md-7" label="Note" :problem="problems['note']" long />
        </div>
      </section>
      <PathBar v-model:chain="sheet.chain" v-model:chosen="chosen" @edited="edited" />
      <SourceForm
        v-if="chain.sources[at.source]"
        v-model="chain.sources[at.source]!"
        :problems="problems"
        :place="`chain.sources.${at.source}`"
        @edited="edited"
      />
      <div v-if="joined" :key="joined.id" class="d-grid gap-3">
        <BetweenForm
          v-model:chain="sheet.chain"
          v-model:choices="sheet.choices"
          :problems="problems"
          :index="chosen"
          @edited="edited"
        />
        <AmplifierForm
          v-if="chain.amplifiers[at.amplifier]"
          v-model="chain.amplifiers[at.amplifier]!"
          v-model:mode="joined.mode"
          :problems="problems"
          :place="`chain.amplifiers.${at.amplifier}`"
          @edited="edited"
        />
        <SpeakersForm
          v-if="chain.loads[at.load]"
          v-model="chain.loads[at.load]!"
          v-model:path-name="joined.name"
          :problems="problems"
          :place="`chain.loads.${at.load}`"
          @edited="edited"
        />
        <FiltersForm v-model="chain.paths[chosen]!" :problems="problems" :index="chosen" @edited="edited" />
      </div>
      <ChoicesForm v-model="sheet.choices" :problems="problems" @edited="edited" />
    </div>
    <aside v-if="path" class="col-lg-4">
      <div class="side d-grid gap-3">
        <section class="sheet">
          <h2 class="h5">{{ path.name }}: {{ formatValue(path.target.value, 'V') }}</h2>
          <TheTower :courses="path.courses" />
        </section>
        <FindingList :findings="[...path.findings, ...across]" />
        <RouterLink class="btn btn-primary" :to="{ name: 'plan', params: { id } }">To the plan</RouterLink>
      </div>
    </aside>
  </div>
  <p v-if="problems['chain']" class="said-clipped mt-2" role="alert">{{ problems['chain'] }}. Not saved.</p>
  <ConflictDialog v-if="conflict" :differs="conflict.differs" @settle="settle" />
</template>

<style scoped>
@media (min-width: 992px) {
  .side {
    position: sticky;
    top: 0.5rem;
  }
}
</style>
