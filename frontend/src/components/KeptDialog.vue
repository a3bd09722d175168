<script setup lang="ts">
/** What waits on this device and what the server wouldn't have: try again, correct, take away as a table, let go. */
import { ref } from 'vue';
import type { Entry } from '@/outbox/entry';
import { asCsv } from '@/outbox/table';
import { isElsewheres, refusedAnywhere, retry, waitingAnywhere } from '@/composables/useOutbox';
import { saveFile } from '@/support/saveFile';
import InfoDialog from './InfoDialog.vue';
import KeptEntry from './KeptEntry.vue';
import LetGo from './LetGo.vue';
import CorrectReading from './CorrectReading.vue';

defineProps<{ drafts: readonly string[] }>();
const open = defineModel<boolean>({ required: true });
const correcting = ref('');

function takeAway(): void {
  const table = asCsv([...refusedAnywhere.value, ...waitingAnywhere.value.filter((entry) => !entry.sent)]);
  saveFile(new Blob(['\ufeff', table], { type: 'text/csv' }), 'kept-on-this-device.csv');
}

async function correct(
  entry: Entry & { kind: 'reading' },
  value: number,
  volume: number | null,
): Promise<void> {
  const circumstances = { ...entry.body.circumstances, volume };
  // Under the old name the server may know it as it was.
  await retry(entry.key, { body: { ...entry.body, id: crypto.randomUUID(), value, circumstances } });
  correcting.value = '';
}
</script>

<template>
  <InfoDialog v-model="open" title="Kept on this device" large>
    <p class="quiet">
      Entries stay here until the server has them. Rejected entries stay here until you discard them.
    </p>
    <section v-if="refusedAnywhere.length" aria-labelledby="not-taken">
      <h3 id="not-taken" class="h5">Rejected</h3>
      <ul class="list">
        <KeptEntry v-for="entry in refusedAnywhere" :key="entry.key" :entry="entry">
          <span class="said-clipped why">{{ entry.refused?.sentence }}</span>
          <CorrectReading
            v-if="correcting === entry.key && entry.kind === 'reading'"
            class="why"
            :value="entry.body.value"
            :volume="entry.body.circumstances.volume ?? null"
            @correct="(value, volume) => correct(entry, value, volume)"
          />
          <span class="acts">
            <BButton v-if="correcting !== entry.key" size="sm" variant="primary" @click="retry(entry.key)">
              Try again
            </BButton>
            <BButton
              v-if="entry.kind === 'reading'"
              size="sm"
              variant="plain"
              @click="correcting = correcting === entry.key ? '' : entry.key"
            >
              Correct it
            </BButton>
            <LetGo :entry="entry.key" />
          </span>
        </KeptEntry>
      </ul>
    </section>
    <section v-if="waitingAnywhere.length" aria-labelledby="waiting">
      <h3 id="waiting" class="h5">Waiting</h3>
      <ul class="list">
        <KeptEntry v-for="entry in waitingAnywhere" :key="entry.key" :entry="entry">
          <span v-if="isElsewheres(entry)" class="said-edge why">
            This entry belongs to another workshop’s server and will be sent when that server is reachable.
          </span>
          <span v-if="isElsewheres(entry)" class="acts">
            <LetGo :entry="entry.key" />
          </span>
        </KeptEntry>
      </ul>
    </section>
    <p v-for="job in drafts" :key="job">
      A closed tab has unsaved changes to a system:
      <RouterLink :to="{ name: 'system', params: { id: job } }" @click="open = false">open it</RouterLink>.
    </p>
    <BButton v-if="refusedAnywhere.length || waitingAnywhere.length" variant="plain" @click="takeAway">
      All of it as a table (CSV)
    </BButton>
    <p v-else-if="!drafts.length" class="m-0">Nothing: the server has everything.</p>
  </InfoDialog>
</template>

<style scoped>
.list {
  list-style: none;
  margin: 0 0 1rem;
  padding: 0;
}
.why,
.acts {
  grid-column: 1 / -1;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem;
}
</style>
