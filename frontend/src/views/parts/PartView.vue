<script setup lang="ts">
/** One part of the shop: stated, measured, unit by unit. */
import { useQuery, useQueryClient } from '@tanstack/vue-query';
import { computed } from 'vue';
import { useRoute } from 'vue-router';
import { api, partFileAddress, Refusal, type ShopPart } from '@/api/client';
import PartReport from '@/components/PartReport.vue';
import TextField from '@/components/TextField.vue';
import { useDoor } from '@/composables/useDoor';
import { useHeading } from '@/composables/useHeading';
import { useTrying } from '@/composables/useTrying';
import { partKindWords } from '@/support/shopParts';
import { draftAt, noteDraft } from '@/support/tabDrafts';
import { dateInWords } from '@/support/words';

useHeading();
const route = useRoute();
const queries = useQueryClient();
const { may } = useDoor();
const { trouble, said, trying } = useTrying();
const id = computed(() => String(route.params.id));
const { data, error } = useQuery({
  queryKey: computed(() => ['parts', id.value]),
  queryFn: () => api.part(id.value),
});
const part = computed(() => data.value?.kept.sheet);
const stated = computed(() => part.value?.amplifier ?? part.value?.processor ?? part.value?.speakers);
const kind = computed(() =>
  part.value?.amplifier ? 'amplifier' : part.value?.processor ? 'processor' : 'speakers',
);

const again = () => queries.invalidateQueries({ queryKey: ['parts'] });
let last: Promise<unknown> = Promise.resolve();
/** One change after the other: each rests on the version that the one before it made. */
function save(change: (part: ShopPart) => Partial<ShopPart>, words: string): Promise<boolean> {
  const next = last.then(() =>
    trying(async () => {
      const kept = data.value?.kept;
      if (!kept) return;
      const sheet = { ...kept.sheet, ...change(kept.sheet) };
      try {
        await api.savePart(kept.id, { base_version: kept.version, sheet });
      } catch (problem) {
        // The next press goes on from what somebody else made of it.
        if (problem instanceof Refusal && problem.status === 409) await again();
        throw problem;
      }
      await again();
    }, words),
  );
  last = next.catch(() => undefined);
  return next;
}
const notePlace = computed(() => `part ${id.value} note`);
const note = computed({
  get: () => draftAt<string>(notePlace.value) ?? part.value?.note ?? '',
  set: (text) => noteDraft(notePlace.value, text === (part.value?.note ?? '') ? null : text),
});
async function saveNote(): Promise<void> {
  const [place, typed] = [notePlace.value, draftAt<string>(notePlace.value)];
  if (typed === undefined) return;
  if ((await save(() => ({ note: typed }), 'Saved')) && draftAt<string>(place) === typed)
    noteDraft(place, null);
}
const removeUnit = (unit: string) =>
  save(({ units = [] }) => ({ units: units.filter((kept) => kept.id !== unit) }), 'Removed');
async function bin(there: boolean): Promise<void> {
  await trying(async () => {
    await api.binPart(id.value, there);
    await again();
  });
}
</script>

<template>
  <div class="d-flex flex-wrap align-items-center justify-content-between gap-2 my-2">
    <h1 ref="heading" class="m-0" tabindex="-1">{{ stated?.name ?? 'Part' }}</h1>
    <div class="d-flex flex-wrap gap-2">
      <RouterLink class="btn btn-plain" :to="{ name: 'parts' }">Parts</RouterLink>
      <RouterLink v-if="stated" class="btn btn-plain" :to="{ name: 'jobs', state: { search: stated.name } }"
        >Jobs with it</RouterLink
      >
      <a class="btn btn-plain" :href="partFileAddress(id)" download>Part file</a>
      <BButton v-if="data && may('work')" variant="plain" @click="bin(!data.kept.deleted_at)">{{
        data.kept.deleted_at ? 'Restore it' : 'Put it into the bin'
      }}</BButton>
    </div>
  </div>
  <p v-if="error" class="sheet" role="alert">{{ error.message }}</p>
  <p class="m-0" role="status">{{ said }}</p>
  <p v-if="trouble" class="said-clipped" role="alert">{{ trouble }}</p>
  <div v-if="part && data" class="sheets">
    <section class="sheet">
      <h2 class="h4">Stated</h2>
      <p class="quiet">{{ partKindWords(kind) }}, as its data sheet has it.</p>
      <ul class="mb-0">
        <li v-for="line in data.stated" :key="line">{{ line }}</li>
      </ul>
      <form v-if="may('work')" class="mt-2" @submit.prevent="saveNote" @focusout="saveNote">
        <TextField v-model="note" label="Note" long />
      </form>
      <p v-else-if="part.note" class="mb-0">{{ part.note }}</p>
    </section>
    <section class="sheet">
      <h2 class="h4">Measured</h2>
      <PartReport v-if="data.report.length" :rows="data.report" />
      <p v-else class="mb-0">
        Nothing yet. A job’s System page keeps what was measured there: watts where it clips, the gain’s
        scale, the dials of filters.
      </p>
      <template v-if="data.units.length">
        <h3 class="h6 mt-3">Units</h3>
        <ul class="units">
          <li v-for="unit in data.units" :key="unit.id">
            <span>
              <strong>{{ unit.name }}</strong>: {{ unit.figures.join('; ') }}
              <span class="quiet">{{ dateInWords(unit.measured_on) }}</span>
            </span>
            <BButton
              v-if="may('work')"
              class="flex-shrink-0"
              size="sm"
              variant="plain"
              :aria-label="`Remove ${unit.name}`"
              @click="removeUnit(unit.id)"
              >Remove</BButton
            >
          </li>
        </ul>
      </template>
    </section>
  </div>
</template>

<style scoped lang="scss">
@use '@/styles/breakpoints' as at;

.sheets {
  display: grid;
  gap: 0.8rem;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.4fr);
  align-items: start;
}
.units {
  display: grid;
  gap: 0.4rem;
  margin: 0;
  padding: 0;
  list-style: none;
}
.units li {
  display: flex;
  justify-content: space-between;
  align-items: start;
  gap: 0.8rem;
}
@include at.narrow {
  .sheets {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
