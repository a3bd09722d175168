<script setup lang="ts">
import { onKeyStroke } from '@vueuse/core';
import { useHeading } from '@/composables/useHeading';
import { computed, defineAsyncComponent, ref, useTemplateRef } from 'vue';
import { useRouter } from 'vue-router';
import { api, type JobEntry, Refusal } from '@/api/client';
import NoteBox from '@/components/NoteBox.vue';
import OpenFile from '@/components/OpenFile.vue';
import { useConnection } from '@/composables/useConnection';
import { useDoor } from '@/composables/useDoor';
import { usePreferences } from '@/composables/usePreferences';
import { isDialogOpen, isTyping } from '@/support/keys';
import DueList from './DueList.vue';
import JobRow from './JobRow.vue';
import FirstSteps from './FirstSteps.vue';
import MeterQuestion from './MeterQuestion.vue';
import NewJob from './NewJob.vue';
import { type Shown, useJobList } from './useJobList';

// Only where the network may ask.
const FirstLook = defineAsyncComponent(() => import('./FirstLook.vue'));
const { health, connection } = useConnection();
const OtherDevice = defineAsyncComponent(() => import('@/views/doors/OtherDevice.vue'));
const { locked, may, practises } = useDoor();
const router = useRouter();
const preferences = usePreferences();
/** Until the server has said whether this is the demo, the first question keeps its room: the list isn't pushed down. */
const waiting = computed(() => {
  const { meterAsked, firstLookSeen } = preferences.value;
  return !health.value && connection.value.is === 'ok' && !meterAsked && !firstLookSeen;
});
const list = useJobList();
const { jobs, error, search, shown } = list;
const KINDS: { value: Shown; text: string }[] = [
  { value: 'all', text: 'Current' },
  { value: 'redo', text: 'To redo' },
  { value: 'open', text: 'Open' },
  { value: 'finished', text: 'Finished' },
  { value: 'practice', text: 'Practice' },
  { value: 'archive', text: 'Archive' },
  { value: 'bin', text: 'Bin' },
];
/** Who is here to practise sees nothing else. */
const kinds = computed(() => KINDS.filter((kind) => kind.value !== 'practice' || !practises.value));
const none = computed(() => {
  if (!search.value.trim()) {
    if (shown.value === 'practice')
      return 'No practice jobs yet. Press “New job”, or choose “Practise on a copy” in a job’s menu.';
  }
  return 'No matching jobs.';
});

const heading = useHeading();
/** What was done to a job just now, and how to take it back. */
const done = ref<{ words: string; back: () => Promise<unknown> } | null>(null);
const BinDialog = defineAsyncComponent(() => import('./BinDialog.vue'));
const binning = ref<JobEntry | null>(null);
function keep(): void {
  binning.value = null;
  heading.value?.focus();
}
function bin(): void {
  if (binning.value) void remove(binning.value, true);
  binning.value = null;
}
const trouble = ref('');
async function act(work: () => Promise<unknown>, words = '', back?: () => Promise<unknown>): Promise<void> {
  trouble.value = '';
  try {
    await work();
    done.value = back ? { words, back } : null;
    // What was pressed may be gone: go on from the head of the list.
    heading.value?.focus();
    await list.again();
  } catch (problem) {
    if (!(problem instanceof Refusal)) throw problem;
    trouble.value = problem.message;
  }
}
const nameOf = (job: JobEntry) => `“${job.vehicle || 'Unnamed vehicle'}”`;
const archive = (job: JobEntry, there: boolean) =>
  act(
    () => api.archive(job.id, there),
    `${nameOf(job)} is ${there ? 'in the archive' : 'out of the archive'}.`,
    () => api.archive(job.id, !there),
  );
const remove = (job: JobEntry, there: boolean) =>
  act(
    () => api.remove(job.id, there),
    there ? `${nameOf(job)} is in the bin for 30 days of use.` : `${nameOf(job)} is restored.`,
    () => api.remove(job.id, !there),
  );
function askToRemove(job: JobEntry, there: boolean): void {
  if (there) binning.value = job;
  else void remove(job, false);
}
const copy = (job: JobEntry, practice?: true) =>
  act(async () => {
    const id = crypto.randomUUID();
    const made = await api.copyJob(job.id, { id, by: preferences.value.name, practice: practice ?? null });
    await router.push({ name: 'system', params: { id: made.id } });
  });

const beginning = ref(false);
/** Whether what is begun from the first page is practice. */
const practising = ref(false);
const file = useTemplateRef<InstanceType<typeof OpenFile>>('file');
function first(practice: boolean): void {
  practising.value = practice;
  beginning.value = true;
}
onKeyStroke(['n', 'N'], (event) => {
  const plain = !event.ctrlKey && !event.metaKey && !event.altKey;
  if (!plain || isTyping(event) || isDialogOpen() || !preferences.value.letterKeys) return;
  event.preventDefault();
  beginning.value = true;
});

const unread = ref('');
async function open(file: File): Promise<void> {
  const id = crypto.randomUUID();
  const zip = file.name.toLowerCase().endsWith('.zip');
  const job = zip ? await api.importArchive(id, file) : await api.importJob(id, await file.text());
  await router.push({ name: 'system', params: { id: job.id } });
}
</script>

<template>
  <div class="d-flex flex-wrap align-items-center justify-content-between gap-2 my-2">
    <h1 ref="heading" class="m-0" tabindex="-1">Jobs</h1>
    <div class="d-flex flex-wrap gap-2">
      <OpenFile
        ref="file"
        v-model="unread"
        :accept="practises ? '.json' : '.json,.zip'"
        :label="practises ? 'Job file to open' : 'Job file or archive to open'"
        :open="open"
      />
      <BButton variant="primary" @click="beginning = !beginning"
        >New job <kbd class="not-touch">N</kbd></BButton
      >
    </div>
  </div>

  <p v-if="unread" class="said-clipped" role="alert">{{ unread }}</p>
  <NewJob v-if="beginning" :to-practise="practising || shown === 'practice'" @close="beginning = false" />
  <FirstLook v-if="health?.demo" />
  <div v-else-if="waiting" class="sheet waiting" />
  <MeterQuestion v-else />

  <DueList v-if="shown === 'all' && !search.trim() && !practises" />
  <div class="finder">
    <BFormInput
      v-model="search"
      type="search"
      aria-label="Search the jobs"
      :placeholder="may('customers') ? 'Vehicle, note, part or customer' : 'Vehicle, note or part'"
      autocomplete="off"
      maxlength="200"
    />
    <div class="kinds" role="group" aria-label="Jobs to show">
      <BButton
        v-for="kind in kinds"
        :key="kind.value"
        :variant="shown === kind.value ? 'primary' : 'plain'"
        :aria-pressed="shown === kind.value"
        @click="shown = kind.value"
      >
        {{ kind.text }}
      </BButton>
    </div>
  </div>
  <NoteBox v-if="done" kind="plain" role="status">
    {{ done.words }}
    <BButton size="sm" variant="plain" @click="act(done.back)">Undo</BButton>
  </NoteBox>
  <p v-if="trouble" class="said-clipped" role="alert">{{ trouble }}</p>

  <p v-if="error && !jobs" class="sheet" role="alert">{{ error.message }} Trying again.</p>
  <p v-else-if="!jobs" class="quiet" role="status">Loading the jobs …</p>
  <FirstSteps
    v-else-if="!jobs.length && shown === 'all' && !search.trim()"
    :practises="practises"
    @begin="first"
    @import="file?.pick()"
  />
  <p v-else-if="!jobs.length" class="sheet">{{ none }}</p>
  <template v-else>
    <p class="quiet mb-1" role="status">
      {{ list.total.value === 1 ? '1 job' : `${list.total.value} jobs` }}
      <template v-if="list.unread.value">
        ({{ list.unread.value }} still being read{{
          shown === 'all' && !search.trim() ? '' : ', and may match'
        }})
      </template>
    </p>
    <ul class="jobs">
      <JobRow
        v-for="job in jobs"
        :key="job.id"
        :job="job"
        @copy="(practice) => copy(job, practice)"
        @archive="(there) => archive(job, there)"
        @remove="(there) => askToRemove(job, there)"
      />
    </ul>
    <BButton
      v-if="list.hasMore.value"
      class="mt-3"
      variant="plain"
      :disabled="list.fetching.value"
      @click="list.more()"
    >
      Show more
    </BButton>
  </template>
  <OtherDevice v-if="locked" class="mt-4" />
  <BinDialog v-if="binning" :name="nameOf(binning)" @keep="keep" @bin="bin" />
</template>

<style scoped lang="scss">
@use '@/styles/breakpoints' as at;

.waiting {
  min-height: 9.5rem;
  margin-bottom: 1rem;
  @include at.phone {
    min-height: 20.3rem;
  }
}
.finder {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem 1rem;
  margin: 0.5rem 0;
}
.finder > :first-child {
  flex: 1 1 16rem;
  min-height: 44px;
}
.kinds {
  display: flex;
  flex-wrap: wrap;
  gap: 0.3rem;
}
.jobs {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 0.7rem;
}
</style>
