<script setup lang="ts">
/** Takes from a recording that is kept with the job what the open step asks for: a sweep's levels, or a noise's. */
import { useQueryClient } from '@tanstack/vue-query';
import { computed, ref } from 'vue';
import { api, Refusal, toneAddress } from '@/api/client';
import SelectField from '@/components/SelectField.vue';
import { useCaptures } from '@/composables/useCaptures';
import { useJob } from '@/composables/useJob';
import { usePreferences } from '@/composables/usePreferences';
import type { RunDesk } from '@/composables/useRunDesk';

const props = defineProps<{ desk: RunDesk; what: string }>();
const open = useJob();
const preferences = usePreferences();
const queries = useQueryClient();
const { list } = useCaptures(open.id);
const fitting = computed(() =>
  (list.value ?? [])
    .filter((capture) => !capture.struck && capture.headline.includes(props.what))
    .map((capture) => ({ value: capture.id, text: `${capture.name}: ${capture.headline}` })),
);
const picked = ref('');
const chosen = computed({
  get: () => picked.value || (fitting.value[0]?.value ?? ''),
  set: (id: string) => (picked.value = id),
});
const told = ref('');
/** The sweep to play, at the level of the step's tones. */
const sweep = computed(() => {
  const level = props.desk.step.value?.wants?.tone?.level_dbfs ?? 0;
  return props.what === 'sweep' ? { frequency_hz: 1000, level_dbfs: level, swept: true } : null;
});

async function use(): Promise<void> {
  told.value = 'Reading it …';
  try {
    const taken = await api.useCapture(open.id.value, chosen.value, {
      step: props.desk.key.value,
      sheet_version: open.job.value?.version ?? 1,
      taken_at: new Date().toISOString(),
      by: preferences.value.name,
      row: props.desk.row.value || null,
    });
    told.value = `${taken.length} taken from it.`;
    await queries.invalidateQueries({ queryKey: ['run', open.id.value] });
  } catch (problem) {
    if (!(problem instanceof Refusal)) throw problem;
    told.value = problem.message;
  }
}
</script>

<template>
  <div class="from mb-2">
    <template v-if="fitting.length">
      <SelectField v-model="chosen" :label="`Or from a recorded ${what}`" :options="fitting" />
      <BButton class="btn-run" variant="plain" @click="use">Use the recording</BButton>
    </template>
    <p v-else class="quiet mb-0">
      Or record a
      <a v-if="sweep" class="tap" :href="toneAddress(sweep)" download>{{ what }}</a>
      <template v-else>{{ what }}</template>
      and keep it in
      <RouterLink class="tap" :to="{ name: 'captures', params: { id: open.id.value } }">Captures</RouterLink>:
      it can be used here.
    </p>
    <p class="quiet mb-0" role="status">{{ told }}</p>
  </div>
</template>

<style scoped>
.from {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem 1rem;
  align-items: end;
}
</style>
