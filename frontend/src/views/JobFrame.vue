<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query';
import { computed, ref } from 'vue';
import { useRoute } from 'vue-router';
import { api, Refusal } from '@/api/client';
import NoteBox from '@/components/NoteBox.vue';
import { provideJob } from '@/composables/useJob';
import { entriesOf } from '@/composables/useOutbox';
import { useJobTitle } from '@/composables/usePageTitle';
import { askAgain } from '@/support/refetch';
import { dayInWords, jobName } from '@/support/words';

const route = useRoute();
const id = computed(() => String(route.params.id));
const { view, job, error } = provideJob(id);
useJobTitle(() => {
  const run = view.value?.run;
  const key = route.params.step ? String(route.params.step) : run?.current;
  const step = route.name === 'run' ? run?.steps.find((step) => step.key === key)?.name : undefined;
  return [step ?? route.meta.title, job.value ? jobName(job.value.sheet) : undefined];
});
/** Files on their way, on whatever screen one is meanwhile. */
const underway = computed(
  () =>
    entriesOf(id.value).filter((entry) => entry.kind === 'capture' && !entry.sent && !entry.refused).length,
);
const missing = computed(() => error.value instanceof Refusal && !error.value.passing);
const DAYS_IN_BIN = 30;
const goneAt = computed(() => {
  const since = job.value?.deleted_at;
  return since ? dayInWords(new Date(Date.parse(since) + DAYS_IN_BIN * 24 * 3600 * 1000)) : '';
});
const queries = useQueryClient();
const trouble = ref('');
async function takeOut(): Promise<void> {
  try {
    await api.remove(id.value, false);
    await askAgain(queries, { queryKey: ['run', id.value] });
  } catch (problem) {
    if (!(problem instanceof Refusal)) throw problem;
    trouble.value = problem.message;
  }
}
/** A source by itself has nothing to be planned. */
const alone = computed(() => job.value?.sheet.subject === 'source');
const tabs = computed(() => [
  { name: 'system', text: alone.value ? 'Source' : 'System' },
  ...(alone.value ? [] : [{ name: 'plan', text: 'Plan' }]),
  { name: 'run', text: 'Run' },
  { name: 'captures', text: 'Captures' },
  { name: 'photos', text: 'Photos' },
  { name: 'result', text: 'Result' },
]);
const called = computed(() => (job.value ? jobName(job.value.sheet) : '\u00a0'));
</script>

<template>
  <Teleport to="#job-head">
    <div class="head">
      <p class="vehicle" :class="{ running: route.name === 'run' }" :title="called">
        {{ called }}
      </p>
      <nav aria-label="This job">
        <RouterLink
          v-for="tab in tabs"
          :key="tab.name"
          :to="{ name: tab.name, params: { id } }"
          :class="{
            here:
              route.name === tab.name ||
              (tab.name === 'system' && route.name === 'history') ||
              (tab.name === 'run' && route.name === 'display'),
          }"
        >
          {{ tab.text }}
          <span v-if="tab.name === 'captures' && underway" class="quiet"
            >&nbsp;↑{{ underway }}<span class="visually-hidden"> on the way</span></span
          >
        </RouterLink>
      </nav>
    </div>
  </Teleport>
  <section v-if="missing && error" class="sheet">
    <h1>This job can’t be opened</h1>
    <p>{{ error.message }}</p>
    <RouterLink :to="{ name: 'jobs' }">Go to the jobs</RouterLink>
  </section>
  <template v-else-if="view">
    <NoteBox v-if="goneAt" class="mt-2" kind="clipped" role="status">
      This job is in the bin. It will be deleted on {{ goneAt }} unless someone edits it.
      <BButton size="sm" variant="plain" @click="takeOut">Restore it</BButton>
    </NoteBox>
    <p v-if="trouble" class="said-clipped" role="alert">{{ trouble }}</p>
    <RouterView :key="id" />
  </template>
  <div v-else role="status" aria-label="Opening the job">
    <p class="h1 mb-2">{{ route.meta.title }}</p>
    <div
      v-for="height in [9, 14, 9]"
      :key="height"
      class="sheet waiting"
      :style="{ height: `${height}rem` }"
    />
  </div>
</template>

<style scoped lang="scss">
@use '@/styles/breakpoints' as at;

/* The frame of a page whose job is on its way. */
.waiting {
  margin-bottom: 0.8rem;
  background: var(--stone);
  opacity: 0.5;
}
.head {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 0 1.5rem;
  padding: 0 1rem;
}
.vehicle {
  margin: 0;
  font-size: 1.1rem;
  font-weight: 600;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  min-width: 0;
}
nav {
  display: flex;
  gap: 0.2rem;
}
nav a {
  display: inline-flex;
  align-items: center;
  justify-content: center;
  min-width: 44px;
  min-height: 44px;
  padding: 0 0.9rem;
  color: var(--ink);
  text-decoration: none;
  font-weight: 600;
  white-space: nowrap;
  border-bottom: 4px solid transparent;
}
nav a.here {
  border-color: var(--ink);
}
nav a:hover {
  background: var(--stone);
}
@include at.narrow {
  .head {
    flex-wrap: wrap;
    padding: 0;
  }
}
@include at.lying {
  .vehicle {
    display: none;
  }
  nav a {
    padding: 0 0.5rem;
  }
}
@include at.slim {
  .vehicle.running {
    display: none;
  }
  nav {
    width: 100%;
    justify-content: space-between;
    gap: 0;
    overflow-x: auto;
  }
  nav a {
    padding: 0 0.25rem;
    font-size: 0.95rem;
  }
}
</style>
