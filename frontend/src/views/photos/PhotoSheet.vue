<script setup lang="ts">
/** One photo, large: its caption, what it shows, and arrows, circles and words on it. Every change is saved at once. */
import { computed, ref, watch } from 'vue';
import { useRouter } from 'vue-router';
import { type Photo, photoAddress, type PhotoMark, type Schemas } from '@/api/client';
import PhotoMarks from '@/components/PhotoMarks.vue';
import SelectField from '@/components/SelectField.vue';
import TextField from '@/components/TextField.vue';
import { useDoor } from '@/composables/useDoor';
import { useTrying } from '@/composables/useTrying';
import type { PhotoPlace } from '@/support/photoPlaces';
import { whenInWords } from '@/support/words';
import { usePhotoDrawing } from './usePhotoDrawing';

type Wanted = Partial<Schemas['PhotoChange']>;
const props = defineProps<{
  job: string;
  photo: Photo;
  places: readonly PhotoPlace[];
  change: (photo: Photo, wanted: Wanted) => Promise<Photo>;
  remove: (photo: Photo) => Promise<void>;
}>();
const router = useRouter();
const { may } = useDoor();
const mayWork = computed(() => may('work'));
const { trouble, said, trying } = useTrying();

const caption = ref(props.photo.name ?? '');
watch(
  () => props.photo.name,
  (name) => (caption.value = name ?? ''),
);
async function save(wanted: Wanted): Promise<boolean> {
  return trying(() => props.change(props.photo, wanted), 'Saved');
}
async function rename(): Promise<void> {
  if (caption.value.trim() !== props.photo.name) await save({ name: caption.value.trim() });
}

const placeOptions = computed(() => props.places.map((place, value) => ({ value, text: place.text })));
const place = computed({
  get: () =>
    props.places.findIndex(
      ({ shows }) =>
        (shows.part ?? null) === (props.photo.part ?? null) &&
        (shows.step ?? null) === (props.photo.step ?? null),
    ),
  set: (index) => {
    const shows = props.places[index]?.shows ?? {};
    void save({ part: shows.part ?? null, step: shows.step ?? null });
  },
});

const canvas = ref<HTMLElement | null>(null);
const marks = computed(() => props.photo.drawn ?? []);
const drawing = usePhotoDrawing(canvas, marks, (drawn) => save({ drawn }));
const { tool, word, shown, chosen, unsaved } = drawing;
const TOOLS: { value: PhotoMark['kind']; text: string }[] = [
  { value: 'arrow', text: 'Arrow' },
  { value: 'circle', text: 'Circle' },
  { value: 'word', text: 'Word' },
];
const nameOf = (mark: PhotoMark): string =>
  mark.kind === 'word' ? `“${mark.text}”` : (TOOLS.find((one) => one.value === mark.kind)?.text ?? '');

const sure = ref(false);
async function takeAway(): Promise<void> {
  if (!sure.value) sure.value = true;
  else if (await trying(() => props.remove(props.photo)))
    await router.replace({ name: 'photos', params: { id: props.job } });
}
</script>

<template>
  <section class="sheet photo-sheet" aria-label="Photo">
    <div>
      <div
        ref="canvas"
        class="canvas"
        :class="{ drawing: mayWork && tool }"
        :tabindex="mayWork ? 0 : undefined"
        role="group"
        aria-label="Photo to draw on: arrow keys move what is chosen, with Shift its other end"
        v-on="mayWork ? drawing.listeners : {}"
      >
        <img :src="photoAddress(job, photo.id)" :alt="photo.name || 'Photo'" draggable="false" />
        <PhotoMarks :marks="shown" :width="photo.width" :height="photo.height" />
      </div>
      <p class="quiet mb-0">
        {{ whenInWords(photo.taken_at) }}{{ photo.by ? `, ${photo.by}` : '' }}
        <a class="tap" :href="photoAddress(job, photo.id)" download>Save the file</a>
      </p>
    </div>
    <div class="beside">
      <template v-if="mayWork">
        <form @submit.prevent="rename" @focusout="rename">
          <TextField v-model="caption" label="Caption" />
        </form>
        <SelectField v-model="place" label="Shows" :options="placeOptions" />
        <fieldset>
          <legend class="form-label">Draw</legend>
          <div class="d-flex flex-wrap gap-2">
            <BButton
              v-for="one in TOOLS"
              :key="one.value"
              :variant="tool === one.value ? 'primary' : 'plain'"
              :aria-pressed="tool === one.value"
              @click="drawing.choose(one.value)"
              >{{ one.text }}</BButton
            >
          </div>
          <TextField v-if="tool === 'word'" v-model="word" class="mt-2" label="Word" />
          <p v-if="tool" class="quiet mt-2 mb-0">
            {{
              tool === 'word'
                ? 'Type it, then tap where it begins.'
                : 'Drag over the photo: from the tail to the head, or from the middle to the rim.'
            }}
            <BButton size="sm" variant="plain" @click="drawing.place">Put it in the middle</BButton>
          </p>
        </fieldset>
        <ul v-if="marks.length" class="marks" aria-label="Drawn on this photo">
          <li v-for="(mark, index) in marks" :key="index">
            <BButton
              size="sm"
              :variant="chosen === index ? 'primary' : 'plain'"
              :aria-pressed="chosen === index"
              @click="drawing.select(index)"
              >{{ nameOf(mark) }}</BButton
            >
            <BButton
              size="sm"
              variant="plain"
              :aria-label="`Remove ${nameOf(mark)}`"
              @click="drawing.erase(index)"
              >Remove</BButton
            >
          </li>
        </ul>
      </template>
      <p v-else-if="photo.name">{{ photo.name }}</p>
      <p class="m-0" role="status">{{ said }}</p>
      <p v-if="trouble" class="said-clipped m-0" role="alert">{{ trouble }}</p>
      <div v-if="unsaved" class="d-flex gap-2">
        <BButton size="sm" variant="primary" @click="drawing.saveMeant">Save the drawing again</BButton>
        <BButton size="sm" variant="plain" @click="drawing.leave">Leave it</BButton>
      </div>
      <div v-if="mayWork">
        <BButton variant="plain" @click="takeAway">{{
          sure ? 'Really delete it for good' : 'Delete photo'
        }}</BButton>
      </div>
    </div>
  </section>
</template>

<style scoped lang="scss">
@use '@/styles/breakpoints' as at;

.photo-sheet {
  display: grid;
  gap: 1rem;
  grid-template-columns: minmax(0, 2fr) minmax(14rem, 1fr);
  align-items: start;
}
.canvas {
  position: relative;
  width: fit-content;
  max-width: 100%;
}
.canvas.drawing {
  cursor: crosshair;
  touch-action: none;
}
.canvas img {
  display: block;
  max-width: 100%;
  max-height: 70vh;
}
.beside {
  display: grid;
  gap: 0.6rem;
}
.marks {
  display: grid;
  gap: 0.3rem;
  margin: 0;
  padding: 0;
  list-style: none;
}
.marks li {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  gap: 0.5rem;
}
@include at.narrow {
  .photo-sheet {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
