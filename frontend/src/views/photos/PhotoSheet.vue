<script setup lang="ts">
/** One photo, large: its caption, what it shows, and arrows, circles and words on it. Every change is saved at once. */
import { computed, ref } from 'vue';
import { useRouter } from 'vue-router';
import { type Photo, photoAddress, type PhotoMark, Refusal, type Schemas } from '@/api/client';
import PhotoMarks from '@/components/PhotoMarks.vue';
import SelectField from '@/components/SelectField.vue';
import TextField from '@/components/TextField.vue';
import { useDoor } from '@/composables/useDoor';
import { useTrying } from '@/composables/useTrying';
import type { PhotoPlace } from '@/support/photoPlaces';
import { edited, isSameMark } from '@/support/photoMarks';
import { draftAt, noteDraft } from '@/support/tabDrafts';
import { whenInWords } from '@/support/words';
import { usePhotoDrawing } from './usePhotoDrawing';

type Wanted = Partial<Schemas['PhotoChange']>;
const props = defineProps<{
  job: string;
  photo: Photo;
  places: readonly PhotoPlace[];
  change: (id: string, edit: (photo: Photo) => Wanted) => Promise<void>;
  remove: (photo: Photo) => Promise<void>;
}>();
const router = useRouter();
const { may } = useDoor();
const mayWork = computed(() => may('work'));
const { trouble, said, trying } = useTrying();

const save = (edit: (photo: Photo) => Wanted): Promise<boolean> =>
  trying(() => props.change(props.photo.id, edit), 'Saved');

/** A caption that is typed here and not saved yet, and the one that it is to take the place of. */
type CaptionDraft = { text: string; base: string };
const captionPlace = `photo ${props.photo.id} caption`;
const saved = computed(() => props.photo.name ?? '');
const caption = computed({
  get: () => draftAt<CaptionDraft>(captionPlace)?.text ?? saved.value,
  set: (text) => {
    const base = draftAt<CaptionDraft>(captionPlace)?.base ?? saved.value;
    noteDraft<CaptionDraft>(captionPlace, text === saved.value ? null : { text, base });
  },
});
const form = ref<HTMLElement | null>(null);
/** Out of the field, but not to its own button. */
function leaveForm(event: FocusEvent): void {
  if (!form.value?.contains(event.relatedTarget as Node | null)) void rename();
}
async function rename(): Promise<void> {
  const draft = draftAt<CaptionDraft>(captionPlace);
  if (!draft) return;
  const done = await save((photo) => {
    const now = photo.name ?? '';
    if (now === draft.base || now === draft.text.trim()) return { name: draft.text.trim() };
    // The next press is for what is known then.
    noteDraft<CaptionDraft>(captionPlace, { text: draft.text, base: now });
    const detail = `Somebody called it “${now}” meanwhile. Save yours again, or leave it.`;
    throw new Refusal(409, { status: 409, detail });
  });
  if (done && draftAt<CaptionDraft>(captionPlace)?.text === draft.text) noteDraft(captionPlace, null);
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
    void save(() => ({ part: shows.part ?? null, step: shows.step ?? null }));
  },
});

const canvas = ref<HTMLElement | null>(null);
const marks = computed(() => props.photo.drawn ?? []);
const drawing = usePhotoDrawing(props.photo.id, canvas, marks, (edits) =>
  save((photo) => ({ drawn: edited(photo.drawn ?? [], edits) })),
);
const { tool, word, now, shown, chosen, unsaved } = drawing;
const TOOLS: { value: PhotoMark['kind']; text: string }[] = [
  { value: 'arrow', text: 'Arrow' },
  { value: 'circle', text: 'Circle' },
  { value: 'word', text: 'Word' },
];
const isChosen = (mark: PhotoMark): boolean => chosen.value !== null && isSameMark(mark, chosen.value);
const nameOf = (mark: PhotoMark): string =>
  mark.kind === 'word' ? `“${mark.text}”` : (TOOLS.find((tool) => tool.value === mark.kind)?.text ?? '');

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
        <form ref="form" @submit.prevent="rename" @focusout="leaveForm">
          <TextField v-model="caption" label="Caption" />
          <p v-if="caption !== saved" class="said-edge mb-0">
            Not saved yet.
            <BButton size="sm" variant="plain" @click="noteDraft(captionPlace, null)">Undo</BButton>
          </p>
        </form>
        <SelectField v-model="place" label="Shows" :options="placeOptions" />
        <fieldset>
          <legend class="form-label">Draw</legend>
          <div class="d-flex flex-wrap gap-2">
            <BButton
              v-for="choice in TOOLS"
              :key="choice.value"
              :variant="tool === choice.value ? 'primary' : 'plain'"
              :aria-pressed="tool === choice.value"
              @click="drawing.choose(choice.value)"
              >{{ choice.text }}</BButton
            >
          </div>
          <TextField v-if="tool === 'word'" v-model="word" class="mt-2" label="Word" />
          <p v-if="tool" class="quiet mt-2 mb-0">
            {{
              tool === 'word'
                ? 'Type it, then tap where it begins.'
                : 'Drag over the photo: from the tail to the head, or from the middle to the rim.'
            }}
            <BButton size="sm" variant="plain" @click="drawing.put">Put it in the middle</BButton>
          </p>
        </fieldset>
        <ul v-if="now.length" class="marks" aria-label="Drawn on this photo">
          <li v-for="(mark, index) in now" :key="index">
            <BButton
              size="sm"
              :variant="isChosen(mark) ? 'primary' : 'plain'"
              :aria-pressed="isChosen(mark)"
              @click="drawing.select(mark)"
              >{{ nameOf(mark) }}</BButton
            >
            <BButton
              size="sm"
              variant="plain"
              :aria-label="`Remove ${nameOf(mark)}`"
              @click="drawing.erase(mark)"
              >Remove</BButton
            >
          </li>
        </ul>
      </template>
      <p v-else-if="photo.name">{{ photo.name }}</p>
      <p class="m-0" role="status">{{ said }}</p>
      <p v-if="trouble" class="said-clipped m-0" role="alert">{{ trouble }}</p>
      <div v-if="unsaved" class="d-flex gap-2">
        <BButton size="sm" variant="primary" @click="drawing.saveWaiting">Save the drawing again</BButton>
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
