<script setup lang="ts">
import { useRouter } from 'vue-router';
import { useJob } from '@/composables/useJob';

const router = useRouter();
const { id, view } = useJob();
const run = view.value?.run;
const begun = Boolean(view.value?.readings.length || view.value?.marks.length);
const finished = run?.states.every((state) => state.state === 'done' || state.state === 'skipped');
const alone = view.value?.job.sheet.subject === 'source';
const name = finished ? 'result' : begun || alone ? 'run' : 'plan';
void router.replace({ name, params: { id: id.value } });
</script>

<template>
  <p class="quiet" role="status">Opening the job …</p>
</template>
