<script setup lang="ts">
/** The shop's library of sources: searched by name, kind and volts. */
import { computed, ref } from 'vue';
import { useRouter } from 'vue-router';
import { api, type SourceEntry } from '@/api/client';
import CheckField from '@/components/CheckField.vue';
import OpenFile from '@/components/OpenFile.vue';
import QuantityField from '@/components/QuantityField.vue';
import SelectField from '@/components/SelectField.vue';
import TextField from '@/components/TextField.vue';
import { useHeading } from '@/composables/useHeading';
import { useLibrary } from '@/composables/useLibrary';
import { cleanVolts, SOURCE_KINDS } from '@/support/sources';
import { dateInWords } from '@/support/words';
import NewSource from './NewSource.vue';

useHeading();
const router = useRouter();
const kind = ref<SourceEntry['kind'] | ''>('');
const from = ref<number | null>(null);
const beginning = ref(false);
const { search, inBin, pages, total, error, more, hasMore } = useLibrary(
  'sources',
  () => ({
    ...(kind.value ? { kind: kind.value } : {}),
    ...(from.value === null ? {} : { from_v: from.value }),
  }),
  api.sources,
);
const sources = computed(() => pages.value?.flatMap((page) => page.sources));
const kinds = [{ value: '' as const, text: 'any kind' }, ...SOURCE_KINDS];

const unread = ref('');
async function open(file: File): Promise<void> {
  const kept = await api.importSource(crypto.randomUUID(), await file.text());
  await router.push({ name: 'source', params: { id: kept.id } });
}
</script>

<template>
  <div class="d-flex flex-wrap align-items-center justify-content-between gap-2 my-2">
    <h1 ref="heading" class="m-0" tabindex="-1">Sources</h1>
    <div class="d-flex flex-wrap gap-2">
      <RouterLink class="btn btn-plain" :to="{ name: 'jobs' }">Jobs</RouterLink>
      <OpenFile v-model="unread" accept=".json" label="Source file to open" :open="open" />
      <BButton variant="primary" @click="beginning = !beginning">New source</BButton>
    </div>
  </div>
  <p class="quiet">
    The volts that receivers, factory radios and players really deliver. A job’s result adds to them.
  </p>
  <p v-if="unread" class="said-clipped" role="alert">{{ unread }}</p>
  <NewSource v-if="beginning" class="mb-3" @close="beginning = false" />
  <div class="finder">
    <TextField v-model="search" label="Name, unit or output" />
    <SelectField v-model="kind" label="Kind" :options="kinds" />
    <QuantityField v-model="from" :empty="null" label="Clean volts, at least" kind="volts" unknown="any" />
    <CheckField v-model="inBin" label="In the bin" />
  </div>
  <p v-if="error && !sources" class="sheet" role="alert">{{ error.message }} Trying again.</p>
  <p v-else-if="!sources" class="quiet" role="status">Fetching the sources …</p>
  <p v-else-if="!sources.length" class="sheet">
    No matching source. Measure one in a job and save it from the result, or create one here.
  </p>
  <template v-else>
    <p class="quiet mb-1" role="status">{{ total === 1 ? '1 source' : `${total} sources` }}</p>
    <ul class="sources">
      <li v-for="source in sources" :key="source.id">
        <RouterLink class="sheet" :to="{ name: 'source', params: { id: source.id } }">
          <strong>{{ source.name }}</strong>
          <span class="digits volts">{{ cleanVolts(source) }}</span>
          <span class="quiet">{{ SOURCE_KINDS.find((kind) => kind.value === source.kind)?.text }}</span>
          <span class="quiet"
            >{{ source.units === 1 ? '1 unit' : `${source.units} units`
            }}{{ source.measured_on ? `, ${dateInWords(source.measured_on)}` : '' }}</span
          >
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
  grid-template-columns: 2fr 1fr 1fr max-content;
  align-items: center;
  gap: 0 0.8rem;
}
.sources {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 0.6rem;
}
.sources a {
  display: grid;
  grid-template-columns: minmax(0, 2fr) minmax(0, 1fr) minmax(0, 1.4fr) minmax(0, 1.4fr);
  gap: 0.2rem 1.2rem;
  align-items: baseline;
  color: inherit;
  text-decoration: none;
}
.sources a:hover {
  background: var(--stone);
}
strong,
.volts {
  font-size: 1.2rem;
  font-weight: 650;
}
@include at.phone {
  .finder {
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  }
  .finder > :first-child {
    grid-column: 1 / -1;
  }
  .sources a {
    grid-template-columns: minmax(0, 1.4fr) minmax(0, 1fr);
  }
}
</style>
