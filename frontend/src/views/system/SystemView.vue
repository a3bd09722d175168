<script setup lang="ts">
import { computed } from 'vue';
import { useJob } from '@/composables/useJob';
import { usePreferences } from '@/composables/usePreferences';
import { useSheetEditor } from '@/composables/useSheetEditor';
import FindingList from '@/components/FindingList.vue';
import TextField from '@/components/TextField.vue';
import TheTower from '@/components/TheTower.vue';
import { formatValue } from '@/support/quantity';
import AmplifierForm from './AmplifierForm.vue';
import ChoicesForm from './ChoicesForm.vue';
import ConflictDialog from './ConflictDialog.vue';
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
const path = computed(() => view.value?.run.plan.paths[0]);
const chain = computed(() => sheet.value?.chain);
</script>

<template>
  <div class="d-flex flex-wrap align-items-center justify-content-between gap-2 mb-2">
    <h1 class="m-0">System</h1>
    <SaveMark :state="state" />
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
      <SourceForm
        v-if="chain.sources[0]"
        v-model="chain.sources[0]"
        :problems="problems"
        place="chain.sources.0"
        @edited="edited"
      />
      <AmplifierForm
        v-if="chain.amplifiers[0] && chain.paths[0]"
        v-model="chain.amplifiers[0]"
        v-model:mode="chain.paths[0].mode"
        :problems="problems"
        place="chain.amplifiers.0"
        @edited="edited"
      />
      <SpeakersForm
        v-if="chain.loads[0] && chain.paths[0]"
        v-model="chain.loads[0]"
        v-model:path-name="chain.paths[0].name"
        :problems="problems"
        place="chain.loads.0"
        @edited="edited"
      />
      <ChoicesForm v-model="sheet.choices" :problems="problems" @edited="edited" />
    </div>
    <aside v-if="path" class="col-lg-4">
      <div class="side d-grid gap-3">
        <section class="sheet">
          <h2 class="h5">{{ path.name }}: {{ formatValue(path.target.value, 'V') }}</h2>
          <TheTower :courses="path.courses" />
        </section>
        <FindingList :findings="path.findings" />
        <RouterLink class="btn btn-primary" :to="{ name: 'plan', params: { id } }">To the plan</RouterLink>
      </div>
    </aside>
  </div>
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
