<script setup lang="ts">
/** All photos of a job by what they show, and one of them large, to be captioned and drawn on. */
import { computed } from 'vue';
import { useRoute } from 'vue-router';
import PhotoStrip from '@/components/PhotoStrip.vue';
import { useHeading } from '@/composables/useHeading';
import { useJob } from '@/composables/useJob';
import { type Shown, usePhotos } from '@/composables/usePhotos';
import { placesOf, type PhotoPlace } from '@/support/photoPlaces';
import PhotoSheet from './PhotoSheet.vue';

useHeading();
const { id, job, view } = useJob();
const route = useRoute();
const { photos, sending, error, known, change, remove } = usePhotos(id);
const chosen = computed(() => photos.value.find((photo) => photo.id === route.params.photo));
const gone = computed(() => known.value && Boolean(route.params.photo) && !chosen.value);

const keyOf = ({ part, step }: Shown | { part?: string | null; step?: string | null }): string =>
  `${part ?? ''} ${step ?? ''}`;
const places = computed(() => placesOf(job.value?.sheet.chain, view.value?.run.steps ?? []));
/** Everything that a photo shows, the vehicle first; places that are no longer there keep their photos. */
const groups = computed<PhotoPlace[]>(() => {
  const shown = [...photos.value, ...sending.value.map((entry) => entry.told)];
  const keys = new Set(shown.map(keyOf));
  const [vehicle, ...others] = places.value;
  const known = new Set(places.value.map((place) => keyOf(place.shows)));
  const lost = shown.filter((photo) => !known.has(keyOf(photo)));
  return [
    ...(vehicle ? [vehicle] : []),
    ...others.filter((place) => keys.has(keyOf(place.shows))),
    ...[...new Map(lost.map((photo) => [keyOf(photo), photo])).values()].map((photo) => ({
      shows: { ...(photo.part ? { part: photo.part } : {}), ...(photo.step ? { step: photo.step } : {}) },
      text: 'Something that is no longer part of the system',
    })),
  ];
});
</script>

<template>
  <h1 ref="heading" tabindex="-1" class="mb-2">Photos</h1>
  <p v-if="error" class="said-clipped" role="alert">{{ error.message }}</p>
  <p v-if="gone" class="said-edge">This photo was removed.</p>
  <PhotoSheet
    v-if="chosen"
    :key="chosen.id"
    class="mb-3"
    :job="id"
    :photo="chosen"
    :places="places"
    :change="change"
    :remove="remove"
  />
  <section v-for="(group, index) in groups" :key="keyOf(group.shows)" class="sheet mb-2">
    <h2 class="h5">{{ group.text }}</h2>
    <PhotoStrip :job="id" :shows="group.shows" :where="group.text" files />
    <p v-if="!index" class="quiet mt-2 mb-0">
      Photos of a part are taken on System, photos of a step on Run. Place and time that a camera writes into
      a file are removed. Leave out faces and number plates: whoever has the job’s archive sees its photos.
    </p>
  </section>
</template>
