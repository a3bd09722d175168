<script setup lang="ts">
/** Who holds this run and who looks on; asking for it, handing it over; readings that are offered. */
import { computed } from 'vue';
import type { RunView } from '@/api/client';
import NoteBox from '@/components/NoteBox.vue';
import type { RunTogether } from '@/composables/useTogether';
import { formatReading } from '@/support/readings';

const props = defineProps<{ together: RunTogether; run: RunView['run'] }>();
const { holder, follows, others, canHandOver, asking, asked, mayTake, offers, goesAlong, trouble } =
  props.together;
const titleOf = (key: string) => props.run.steps.find((step) => step.key === key)?.title ?? key;
const offered = computed(() =>
  offers.value.map(({ id, who, reading }) => ({
    id,
    who,
    value: formatReading(reading.value, reading.quantity, reading.seen),
    at: reading.circumstances.volume == null ? '' : ` at ${reading.circumstances.volume}`,
    title: titleOf(reading.step),
  })),
);
</script>

<template>
  <div v-if="others.length" class="who" aria-label="People at this run" role="group">
    <p v-if="follows" class="mb-0">
      <strong>{{ holder?.who }}</strong> holds this run, at “{{ titleOf(holder?.step ?? '') }}”. Your readings
      are offered to them.
    </p>
    <p v-else class="mb-0 quiet">
      You hold this run. Following: {{ others.map((person) => person.who).join('; ') }}.
    </p>
    <div class="d-flex flex-wrap gap-2 align-items-center">
      <template v-if="follows">
        <BFormCheckbox v-model="goesAlong" switch>Follow</BFormCheckbox>
        <BButton v-if="mayTake" variant="primary" @click="together.wish('take')"
          >Take over <kbd>O</kbd></BButton
        >
        <BButton v-else variant="plain" :disabled="asked" @click="together.wish('ask')"
          >{{ asked ? 'Requested …' : 'Request the run'
          }}<template v-if="!asked">&nbsp;<kbd>O</kbd></template></BButton
        >
      </template>
      <BButton v-else-if="!asking && canHandOver" variant="plain" @click="together.wish('hand_over')"
        >Hand over <kbd>O</kbd></BButton
      >
    </div>
  </div>
  <NoteBox v-if="asking && !follows" class="mt-2" kind="edge" role="status">
    {{ asking.who }} requests this run.
    <BButton size="sm" variant="primary" @click="together.wish('hand_over')">Hand over <kbd>O</kbd></BButton>
    <BButton size="sm" variant="plain" class="ms-2" @click="together.wish('keep')">Keep the run</BButton>
  </NoteBox>
  <NoteBox v-for="offer in offered" :key="offer.id" class="mt-2" kind="plain" role="status">
    {{ offer.who }} read <strong class="digits">{{ offer.value }}</strong>{{ offer.at }}, “{{ offer.title }}”.
    <template v-if="!follows">
      <BButton size="sm" variant="primary" @click="together.takeOffer(offer.id)">Save it</BButton>
      <BButton size="sm" variant="plain" class="ms-2" @click="together.leaveOffer(offer.id)"
        >Ignore it</BButton
      >
    </template>
  </NoteBox>
  <p v-if="trouble" class="said-clipped mt-2 mb-0" role="alert">{{ trouble }}</p>
</template>

<style scoped>
.who {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  justify-content: space-between;
  gap: 0.25rem 1rem;
  min-height: 44px;
  margin-top: 0.4rem;
  font-size: 0.95rem;
}
</style>
