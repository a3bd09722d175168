<script setup lang="ts">
/** What was measured of a source goes to the shop's library: a sheet of its own, or another unit of one that is there. */
import { ref } from 'vue';
import { api, Refusal } from '@/api/client';

const props = defineProps<{ job: string; source: string; name: string }>();
const kept = ref<{ id: string; words: string } | null>(null);
const trouble = ref('');

/** As another unit of the sheet of that name, where there is one; by itself where that is another source after all. */
async function keep(apart: boolean): Promise<void> {
  trouble.value = '';
  try {
    const found = props.name && !apart ? await api.sources({ search: props.name.slice(0, 200) }) : null;
    const there = found?.sources.find((source) => source.name === props.name);
    const id = there?.id ?? crypto.randomUUID();
    const sheet = await api.sourceFromJob(id, { job_id: props.job, source: props.source });
    const units = sheet.sheet.units?.length ?? 0;
    kept.value = { id, words: units > 1 ? `Saved: ${units} units are known now.` : 'Kept.' };
  } catch (problem) {
    if (!(problem instanceof Refusal)) throw problem;
    trouble.value = problem.message;
  }
}
</script>

<template>
  <div class="no-print">
    <BButton variant="plain" @click="keep(false)">Keep {{ name || 'the source' }} in the library</BButton>
    <span v-if="kept" role="status">
      {{ kept.words }}
      <RouterLink class="tap" :to="{ name: 'source', params: { id: kept.id } }">Its sheet</RouterLink>
    </span>
    <p v-if="trouble" class="said-clipped mb-0" role="alert">
      {{ trouble }}
      <BButton size="sm" variant="plain" @click="keep(true)">Save as a new sheet</BButton>
    </p>
  </div>
</template>
