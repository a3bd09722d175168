<script setup lang="ts">
/** Photos of what is open on System: of the vehicle, or of one part of the chosen path. */
import { computed } from 'vue';
import type { Chain, Path } from '@/api/client';
import PhotoStrip from '@/components/PhotoStrip.vue';
import { placesOf } from '@/support/photoPlaces';
import type { Part } from '@/support/refusals';

const props = defineProps<{ job: string; part: Part; chain: Chain; path: Path }>();

const PLACES: Partial<Record<Part, (path: Path) => string | undefined>> = {
  source: (path) => `sources.${path.source}`,
  between: (path) => (path.through[0] ? `processors.${path.through[0]}` : undefined),
  amplifier: (path) => `amplifiers.${path.amplifier}`,
  speakers: (path) => `loads.${path.load}`,
  filters: (path) => `paths.${path.id}`,
};
const place = computed(() => {
  const at = props.part === 'vehicle' ? undefined : PLACES[props.part]?.(props.path);
  return placesOf(props.chain, []).find(({ shows }) => shows.part === at);
});
</script>

<template>
  <section v-if="place && part !== 'methods'" class="sheet" :aria-label="`Photos of ${place.text}`">
    <h2 class="h5">Photos of {{ part === 'vehicle' ? 'the vehicle' : place.text }}</h2>
    <PhotoStrip :key="place.text" :job="job" :shows="place.shows" :where="place.text" />
  </section>
</template>
