<script setup lang="ts">
/** Photos of what is open on System: of the vehicle, or of one part of the chosen path. */
import { computed } from 'vue';
import type { Chain, Path } from '@/api/client';
import PhotoStrip from '@/components/PhotoStrip.vue';
import { placeOfPart } from '@/support/partPlaces';
import { placesOf } from '@/support/photoPlaces';
import type { Part } from '@/support/refusals';

const props = defineProps<{ job: string; part: Part; chain: Chain; path: Path }>();

const place = computed(() => {
  const at = placeOfPart(props.part, props.path);
  return placesOf(props.chain, []).find(({ shows }) => shows.part === at);
});
</script>

<template>
  <section v-if="place && part !== 'methods'" class="sheet" :aria-label="`Photos of ${place.text}`">
    <h2 class="h5">Photos of {{ part === 'vehicle' ? 'the vehicle' : place.text }}</h2>
    <PhotoStrip :key="place.text" :job="job" :shows="place.shows" :where="place.text" />
  </section>
</template>
