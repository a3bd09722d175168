<script setup lang="ts">
import { computed } from 'vue';
import { useRoute } from 'vue-router';
import { Refusal } from '@/api/client';
import { provideJob } from '@/composables/useJob';

const route = useRoute();
const id = computed(() => String(route.params.id));
const { view, job, error } = provideJob(id);
const missing = computed(() => error.value instanceof Refusal && !error.value.passing);
const TABS = [
  { name: 'system', text: 'System' },
  { name: 'plan', text: 'Plan' },
  { name: 'run', text: 'Run' },
  { name: 'captures', text: 'Captures' },
  { name: 'result', text: 'Result' },
];
</script>

<template>
  <Teleport to="#job-head">
    <div class="head">
      <p class="vehicle" :class="{ running: route.name === 'run' }" :title="job?.sheet.vehicle">
        {{ job ? job.sheet.vehicle || 'Unnamed vehicle' : ' ' }}
      </p>
      <nav aria-label="This job">
        <RouterLink
          v-for="tab in TABS"
          :key="tab.name"
          :to="{ name: tab.name, params: { id } }"
          :class="{ here: route.name === tab.name }"
        >
          {{ tab.text }}
        </RouterLink>
      </nav>
    </div>
  </Teleport>
  <section v-if="missing && error" class="sheet">
    <h1>This job can’t be opened</h1>
    <p>{{ error.message }}</p>
    <RouterLink :to="{ name: 'jobs' }">Go to the jobs</RouterLink>
  </section>
  <RouterView v-else-if="view" :key="id" />
  <p v-else class="quiet" role="status">Opening the job …</p>
</template>

<style scoped lang="scss">
@use '@/styles/breakpoints' as at;

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
  min-height: 44px;
  padding: 0 0.9rem;
  color: var(--ink);
  text-decoration: none;
  font-weight: 600;
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
@include at.slim {
  .vehicle.running {
    display: none;
  }
  nav {
    width: 100%;
    justify-content: space-between;
  }
  nav a {
    padding: 0 0.4rem;
  }
}
</style>
