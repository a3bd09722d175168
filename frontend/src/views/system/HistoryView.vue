<script setup lang="ts">
/** What became of a job's system: who changed what when, how it was then, and the way back. */
import { useQuery, useQueryClient } from '@tanstack/vue-query';
import { computed, ref } from 'vue';
import { useRouter } from 'vue-router';
import { api, type KeptVersion, Refusal } from '@/api/client';
import OriginNote from '@/components/OriginNote.vue';
import ChangeTable from '@/components/ChangeTable.vue';
import { useHeading } from '@/composables/useHeading';
import { useJob } from '@/composables/useJob';
import { usePreferences } from '@/composables/usePreferences';
import { sittings } from '@/support/history';
import { ofVersion } from '@/support/origin';
import { whenInWords } from '@/support/words';
import SystemPicture from './SystemPicture.vue';

useHeading();
const { id, job, view } = useJob();
const preferences = usePreferences();
const router = useRouter();
const queries = useQueryClient();
const { data: versions, error } = useQuery({
  queryKey: computed(() => ['history', id.value, job.value?.version]),
  queryFn: () => api.history(id.value),
});
const list = computed(() => sittings(versions.value ?? []));
const shown = ref<KeptVersion | null>(null);
const trouble = ref('');

async function trying(work: () => Promise<void>): Promise<void> {
  trouble.value = '';
  try {
    await work();
  } catch (problem) {
    if (!(problem instanceof Refusal)) throw problem;
    trouble.value = problem.message;
  }
}
const look = (version: number) =>
  trying(async () => {
    shown.value = shown.value?.version === version ? null : await api.version(id.value, version);
  });
const goBack = (kept: KeptVersion) =>
  trying(async () => {
    const edit = { base_version: job.value?.version ?? 1, sheet: kept.sheet, by: preferences.value.name };
    await api.saveSheet(id.value, edit);
    await queries.invalidateQueries({ queryKey: ['run', id.value] });
    await router.push({ name: 'system', params: { id: id.value } });
  });
</script>

<template>
  <div class="d-flex flex-wrap align-items-center justify-content-between gap-2 mb-2">
    <h1 ref="heading" tabindex="-1" class="m-0">History of the system</h1>
    <RouterLink class="btn btn-plain" :to="{ name: 'system', params: { id } }">To the system</RouterLink>
  </div>
  <OriginNote v-if="view?.origin" :origin="view.origin" />
  <p class="quiet">
    Every change is saved. Going back creates a new version. Later versions and readings stay.
  </p>
  <p v-if="trouble || error" class="said-clipped" role="alert">{{ trouble || error?.message }}</p>
  <ol class="versions">
    <li v-for="version in list" :key="version.version" class="sheet">
      <div class="d-flex flex-wrap align-items-center justify-content-between gap-2">
        <h2 class="h5 m-0">
          {{ whenInWords(version.saved_at)
          }}<span class="quiet"
            >, {{ ofVersion(version.by, version.version, view?.origin ?? null) || 'no name given' }}</span
          >
        </h2>
        <span v-if="version.version === job?.version" class="said-clean fw-bold">current version</span>
        <BButton
          v-else
          variant="plain"
          :aria-expanded="shown?.version === version.version"
          @click="look(version.version)"
        >
          {{ shown?.version === version.version ? 'Close' : 'Show' }}
        </BButton>
      </div>
      <ChangeTable v-if="version.changes.length" :changes="version.changes" was="Before" now="After" />
      <p v-else class="quiet mb-0">
        {{ version.version === 1 ? 'Job created.' : 'No change in the end.' }}
      </p>
      <section v-if="shown?.version === version.version" class="then" aria-label="System at that time">
        <h3 class="h6">System at that time</h3>
        <SystemPicture :chain="shown.sheet.chain" />
        <template v-if="shown.differs.length">
          <h3 class="h6 mt-3">Changes if you go back</h3>
          <ChangeTable :changes="shown.differs" was="Now" now="Then" />
          <BButton variant="primary" @click="goBack(shown)">Go back to this version</BButton>
        </template>
        <p v-else class="quiet mt-2 mb-0">Same as the current version.</p>
      </section>
    </li>
  </ol>
</template>

<style scoped>
.versions {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 0.8rem;
}
.then {
  margin-top: 0.8rem;
  padding-top: 0.8rem;
  border-top: 1px solid var(--line);
}
</style>
