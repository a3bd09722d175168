<script setup lang="ts">
/** The part that is open, among those of the shop: its figures from there, what was measured of it, and back to there. */
import { useQuery, useQueryClient } from '@tanstack/vue-query';
import { computed, ref } from 'vue';
import { api, type JobSheet, type Path } from '@/api/client';
import LibraryPicker from '@/components/LibraryPicker.vue';
import PartReport from '@/components/PartReport.vue';
import { useDoor } from '@/composables/useDoor';
import { useTrying } from '@/composables/useTrying';
import { placeOfPart } from '@/support/partPlaces';
import type { Part } from '@/support/refusals';
import { SHOP_KINDS } from '@/support/shopParts';

const props = defineProps<{ job: string; part: Part; path: Path }>();
const sheet = defineModel<JobSheet>({ required: true });
const { may, practises } = useDoor();
const queries = useQueryClient();
const { trouble, said, trying } = useTrying();

const kind = computed(() => SHOP_KINDS[props.part]);
const place = computed(() => placeOfPart(props.part, props.path));
const own = computed(() => {
  const [list = '', id] = place.value?.split('.') ?? [];
  const parts =
    list in sheet.value.chain ? sheet.value.chain[list as 'amplifiers' | 'processors' | 'loads'] : [];
  return parts.find((part) => part.id === id);
});
const name = computed(() => own.value?.name?.trim() ?? '');
const shown = computed(() => kind.value !== undefined && own.value !== undefined && !practises.value);

const wanted = computed(() => (kind.value ? { kind: kind.value } : {}));
async function ask(search: string) {
  const { total, parts } = await api.parts({ ...wanted.value, search, limit: 100 });
  return { total, options: parts.map((entry) => ({ value: entry.id, text: entry.name })) };
}
const { data: named } = useQuery({
  queryKey: computed(() => ['parts', 'of a name', kind.value, name.value]),
  queryFn: () => api.parts({ ...wanted.value, search: name.value, limit: 100 }),
  enabled: computed(() => shown.value && name.value !== ''),
});
/** The one of the same name: what was measured of it is shown, and what this job measured goes there. */
const same = computed(() => named.value?.parts.find((entry) => entry.name === name.value));
const { data: known } = useQuery({
  queryKey: computed(() => ['parts', same.value?.id, same.value?.version]),
  queryFn: () => api.part(same.value?.id ?? ''),
  enabled: computed(() => same.value !== undefined),
});
const report = computed(() => (same.value ? (known.value?.report ?? []) : []));

const chosen = ref('');
async function use(id: string): Promise<void> {
  const at = place.value;
  if (!id || !at) return;
  await trying(async () => {
    const made = await api.partIntoJob(id, { sheet: sheet.value, place: at });
    sheet.value.not_confirmed = made.not_confirmed;
    sheet.value.chain = made.chain;
  }, 'Its figures are in the form.');
  chosen.value = '';
}
async function keep(): Promise<void> {
  const at = place.value;
  if (!at) return;
  const there = same.value?.id;
  await trying(
    async () => {
      await api.partFromJob(there ?? crypto.randomUUID(), { job_id: props.job, place: at });
      await queries.invalidateQueries({ queryKey: ['parts'] });
    },
    there ? 'The figures measured here are kept with it.' : 'It is one of the shop’s parts now.',
  );
}
</script>

<template>
  <section v-if="shown" class="sheet" aria-label="The shop’s parts">
    <h2 class="h5">The shop’s parts</h2>
    <LibraryPicker
      v-if="may('work')"
      :key="kind"
      v-model="chosen"
      class="from"
      :of="['parts', kind ?? '']"
      :ask="ask"
      label="Take the figures of"
      none="choose …"
      find="Look for a part"
      @update:model-value="use"
    />
    <template v-if="report.length">
      <h3 class="h6">Measured of {{ name }}</h3>
      <PartReport :rows="report" />
    </template>
    <div v-if="may('work')" class="d-flex flex-wrap align-items-center gap-2 mt-2">
      <BButton size="sm" variant="plain" :disabled="!name" @click="keep">{{
        same ? 'Keep the figures measured here' : 'Keep among the shop’s parts'
      }}</BButton>
      <RouterLink v-if="same" class="tap" :to="{ name: 'part', params: { id: same.id } }"
        >Its page</RouterLink
      >
      <span v-if="!name" class="quiet">Give it a name first.</span>
    </div>
    <p class="m-0" role="status">{{ said }}</p>
    <p v-if="trouble" class="said-clipped m-0" role="alert">{{ trouble }}</p>
  </section>
</template>

<style scoped>
.from {
  max-width: 22rem;
}
</style>
