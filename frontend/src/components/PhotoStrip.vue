<script setup lang="ts">
/** Photos of a part or of a step: small ones in a row, with those on their way, and a button that takes another. */
import { computed, ref, toRef } from 'vue';
import { type Photo, photoAddress } from '@/api/client';
import { useDoor } from '@/composables/useDoor';
import { retry } from '@/composables/useOutbox';
import { type Shown, usePhotos } from '@/composables/usePhotos';
import LetGo from './LetGo.vue';
import PhotoMarks from './PhotoMarks.vue';
import WaitingPhoto from './WaitingPhoto.vue';

const props = defineProps<{
  job: string;
  shows: Shown;
  /** The part or step, in words. */
  where: string;
  /** Whether the file chooser is offered beside the camera. */
  files?: boolean;
}>();
const { photos, sending, take } = usePhotos(toRef(props, 'job'));
const { may } = useDoor();

const isHere = (photo: Shown | { part?: string | null; step?: string | null }): boolean =>
  (photo.part ?? null) === (props.shows.part ?? null) && (photo.step ?? null) === (props.shows.step ?? null);
const here = computed(() => photos.value.filter(isHere));
const coming = computed(() => sending.value.filter((entry) => isHere(entry.told)));

const shapesOf = (photo: Photo) => (photo.drawn ?? []).filter((mark) => mark.kind !== 'word');
const camera = ref<HTMLInputElement | null>(null);
const chooser = ref<HTMLInputElement | null>(null);
function taken(input: HTMLInputElement | null): void {
  for (const file of input?.files ?? []) take(file, props.shows, props.where);
  if (input) input.value = '';
}
</script>

<template>
  <div class="strip">
    <ul v-if="here.length || coming.length" class="photos" :aria-label="`Photos: ${where}`">
      <li v-for="photo in here" :key="photo.id">
        <RouterLink
          class="photo"
          :to="{ name: 'photos', params: { id: job, photo: photo.id } }"
          :title="photo.name || undefined"
        >
          <img
            :src="photoAddress(job, photo.id, true)"
            :alt="photo.name || `Photo of ${where}`"
            loading="lazy"
          />
          <!-- Words would be too small to be read. -->
          <PhotoMarks :marks="shapesOf(photo)" :width="photo.width" :height="photo.height" />
        </RouterLink>
      </li>
      <li v-for="entry in coming" :key="entry.key" class="coming">
        <WaitingPhoto :entry="entry" />
        <template v-if="entry.refused">
          <p class="said-clipped m-0" role="alert">{{ entry.refused.sentence }}</p>
          <div class="d-flex gap-2">
            <BButton size="sm" variant="plain" @click="retry(entry.key)">Try again</BButton>
            <LetGo :entry="entry.key" />
          </div>
        </template>
      </li>
    </ul>
    <template v-if="may('work')">
      <input
        ref="camera"
        hidden
        type="file"
        accept="image/*"
        capture="environment"
        :aria-label="`Photo of ${where}`"
        @change="taken(camera)"
      />
      <BButton size="sm" variant="plain" @click="camera?.click()">Take a photo</BButton>
      <template v-if="files">
        <input
          ref="chooser"
          hidden
          type="file"
          accept="image/*"
          multiple
          :aria-label="`Photo files of ${where}`"
          @change="taken(chooser)"
        />
        <BButton size="sm" variant="plain" @click="chooser?.click()">Choose files</BButton>
      </template>
    </template>
  </div>
</template>

<style scoped>
.strip {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0.5rem;
}
.photos {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem;
  margin: 0;
  padding: 0;
  list-style: none;
}
.photo {
  position: relative;
  display: block;
  border: 1px solid var(--line);
}
.photo img {
  display: block;
  height: 6rem;
  width: auto;
  max-width: 12rem;
  object-fit: contain;
}
.coming {
  max-width: 14rem;
}
</style>
