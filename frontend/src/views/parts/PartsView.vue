<script setup lang="ts">
/** The shop's parts: searched by name and kind. */
import { computed, ref } from 'vue';
import { useRouter } from 'vue-router';
import { api, type PartKind } from '@/api/client';
import CheckField from '@/components/CheckField.vue';
import OpenFile from '@/components/OpenFile.vue';
import SelectField from '@/components/SelectField.vue';
import TextField from '@/components/TextField.vue';
import { useHeading } from '@/composables/useHeading';
import { useLibrary } from '@/composables/useLibrary';
import { PART_KINDS, partKindWords } from '@/support/shopParts';
import { dateInWords } from '@/support/words';

useHeading();
const router = useRouter();
const kind = ref<PartKind | ''>('');
const { search, inBin, pages, total, error, more, hasMore } = useLibrary(
  'parts',
  () => (kind.value ? { kind: kind.value } : {}),
  api.parts,
);
const parts = computed(() => pages.value?.flatMap((page) => page.parts));
const kinds = [{ value: '' as const, text: 'any kind' }, ...PART_KINDS];

const unread = ref('');
async function open(file: File): Promise<void> {
  const kept = await api.importPart(crypto.randomUUID(), await file.text());
  await router.push({ name: 'part', params: { id: kept.id } });
}
</script>

<template>
  <div class="d-flex flex-wrap align-items-center justify-content-between gap-2 my-2">
    <h1 ref="heading" class="m-0" tabindex="-1">Parts</h1>
    <div class="d-flex flex-wrap gap-2">
      <RouterLink class="btn btn-plain" :to="{ name: 'jobs' }">Jobs</RouterLink>
      <OpenFile v-model="unread" accept=".json" label="Part file to open" :open="open" />
    </div>
  </div>
  <p class="quiet">
    Amplifiers, processors and speakers that the shop knows: what their makers state, and what was measured of
    them. On System a job takes their figures, and keeps its own here.
  </p>
  <p v-if="unread" class="said-clipped" role="alert">{{ unread }}</p>
  <div class="finder">
    <TextField v-model="search" label="Name, note or vehicle" />
    <SelectField v-model="kind" label="Kind" :options="kinds" />
    <CheckField v-model="inBin" label="In the bin" />
  </div>
  <p v-if="error && !parts" class="sheet" role="alert">{{ error.message }} Trying again.</p>
  <p v-else-if="!parts" class="quiet" role="status">Fetching the parts …</p>
  <p v-else-if="!parts.length" class="sheet">
    No matching part. Open an amplifier, a processor or speakers on a job’s System page and keep it among the
    shop’s parts.
  </p>
  <template v-else>
    <p class="quiet mb-1" role="status">{{ total === 1 ? '1 part' : `${total} parts` }}</p>
    <ul class="parts">
      <li v-for="part in parts" :key="part.id">
        <RouterLink class="sheet" :to="{ name: 'part', params: { id: part.id } }">
          <strong>{{ part.name }}</strong>
          <span class="quiet">{{ partKindWords(part.kind) }}</span>
          <span class="quiet">{{
            part.units
              ? `measured in ${part.units === 1 ? '1 vehicle' : `${part.units} vehicles`}${part.measured_on ? `, ${dateInWords(part.measured_on)}` : ''}`
              : 'not measured'
          }}</span>
        </RouterLink>
      </li>
    </ul>
    <BButton v-if="hasMore" class="mt-3" variant="plain" @click="more">Show more</BButton>
  </template>
</template>

<style scoped lang="scss">
@use '@/styles/breakpoints' as at;

.finder {
  display: grid;
  grid-template-columns: 2fr 1fr max-content;
  align-items: center;
  gap: 0 0.8rem;
}
.parts {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 0.6rem;
}
.parts a {
  display: grid;
  grid-template-columns: minmax(0, 2fr) minmax(0, 1.2fr) minmax(0, 2fr);
  gap: 0.2rem 1.2rem;
  align-items: baseline;
  color: inherit;
  text-decoration: none;
}
.parts a:hover {
  background: var(--stone);
}
strong {
  font-size: 1.2rem;
  font-weight: 650;
}
@include at.phone {
  .finder,
  .parts a {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
