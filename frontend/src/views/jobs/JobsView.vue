<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query';
import { ref } from 'vue';
import { useRouter } from 'vue-router';
import { api, Refusal } from '@/api/client';
import TheBattlement from '@/components/TheBattlement.vue';
import { usePreferences } from '@/composables/usePreferences';
import { whenInWords } from '@/support/words';

const router = useRouter();
const preferences = usePreferences();
const { data: jobs, error } = useQuery({ queryKey: ['jobs'], queryFn: api.jobs, refetchOnMount: 'always' });

const beginning = ref(false);
const vehicle = ref('');
const note = ref('');
const sentence = ref('');
// Chosen once, so that pressing twice begins one job.
const id = ref(crypto.randomUUID());

const picker = ref<HTMLInputElement | null>(null);
const unread = ref('');
async function open(): Promise<void> {
  const file = picker.value?.files?.[0];
  if (!file) return;
  unread.value = '';
  try {
    const job = await api.importJob(crypto.randomUUID(), await file.text());
    await router.push({ name: 'system', params: { id: job.id } });
  } catch (problem) {
    if (!(problem instanceof Refusal)) throw problem;
    unread.value = `${file.name}: ${problem.message}`;
  } finally {
    if (picker.value) picker.value.value = '';
  }
}

async function begin(): Promise<void> {
  try {
    const job = await api.createJob({
      id: id.value,
      vehicle: vehicle.value,
      note: note.value,
      by: preferences.value.name,
    });
    id.value = crypto.randomUUID();
    await router.push({ name: 'system', params: { id: job.id } });
  } catch (problem) {
    if (!(problem instanceof Refusal)) throw problem;
    sentence.value = problem.message;
  }
}
</script>

<template>
  <div class="d-flex align-items-center justify-content-between gap-3 my-2">
    <h1 class="m-0">Jobs</h1>
    <div class="d-flex gap-2">
      <input
        ref="picker"
        class="visually-hidden"
        type="file"
        accept=".json"
        tabindex="-1"
        aria-label="Job file to open"
        @change="open"
      />
      <BButton variant="plain" @click="picker?.click()">From a file</BButton>
      <BButton variant="primary" @click="beginning = !beginning">New job</BButton>
    </div>
  </div>

  <p v-if="unread" class="said-clipped" role="alert">{{ unread }}</p>
  <form v-if="beginning" class="sheet mb-3" @submit.prevent="begin">
    <h2 class="h4">New job</h2>
    <div class="row g-3">
      <div class="col-md-5">
        <label class="form-label" for="vehicle">Vehicle</label>
        <BFormInput id="vehicle" v-model="vehicle" autofocus autocomplete="off" />
      </div>
      <div class="col-md-7">
        <label class="form-label" for="note">Note</label>
        <BFormInput id="note" v-model="note" autocomplete="off" />
      </div>
    </div>
    <p v-if="sentence" class="said-clipped mt-2 mb-0" role="alert">{{ sentence }}</p>
    <div class="d-flex gap-2 mt-3">
      <BButton type="submit" variant="primary">Begin</BButton>
      <BButton variant="plain" @click="beginning = false">Not now</BButton>
    </div>
    <p class="quiet mt-2 mb-0">The parts come next, filled with middling values to correct.</p>
  </form>

  <p v-if="error && !jobs" class="sheet" role="alert">{{ error.message }} Trying again by itself.</p>
  <p v-else-if="!jobs" class="quiet" role="status">Fetching the jobs …</p>
  <p v-else-if="!jobs.length" class="sheet">No jobs yet. Begin the first with “New job”.</p>
  <ul v-else class="jobs">
    <li v-for="one in jobs" :key="one.job.id">
      <RouterLink :to="{ name: 'job', params: { id: one.job.id } }" class="sheet">
        <span class="what">
          <strong>{{ one.job.sheet.vehicle || 'Unnamed vehicle' }}</strong>
          <span class="quiet note">{{ one.job.sheet.note }}</span>
        </span>
        <TheBattlement :steps="[]" :states="one.states" small />
        <span class="next">
          <span v-if="one.stale" class="said-edge fw-bold">To redo: {{ one.current }}</span>
          <span v-else-if="one.complete" class="said-clean fw-bold">Finished</span>
          <span v-else>Next: {{ one.current }}</span>
          <span class="quiet">{{ whenInWords(one.job.changed_at) }}</span>
        </span>
      </RouterLink>
    </li>
  </ul>
</template>

<style scoped lang="scss">
@use '@/styles/breakpoints' as at;

.jobs {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 0.7rem;
}
.jobs a {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 230px 260px;
  gap: 0.5rem 1.5rem;
  align-items: center;
  color: inherit;
  text-decoration: none;
}
.jobs a:hover {
  background: var(--stone);
}
.what,
.next {
  display: grid;
  min-width: 0;
}
.what strong {
  font-size: 1.2rem;
}
.note {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
@include at.narrow {
  .jobs a {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
