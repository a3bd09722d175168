<script setup lang="ts">
import FoldBox from '@/components/FoldBox.vue';
import { ref } from 'vue';
import { parseQuantity } from '@/support/quantity';

type More = { full_scale_v?: number; expect_hz?: number };
const props = defineProps<{
  /** Has text judged; resolves with why it wasn't, or with nothing. */
  judge: (text: string, more: More) => Promise<string>;
}>();
const emit = defineEmits<{ file: [file: Blob, name: string, more: More] }>();
const picker = ref<HTMLInputElement | null>(null);
const over = ref(false);
const pasted = ref('');
const fullScale = ref('');
const expected = ref('');
const sentence = ref('');

/** What is told besides the file; null when a field can't be read, and then the sentence says why. */
function told(): More | null {
  const more: More = {};
  sentence.value = '';
  for (const [text, kind, name] of [
    [fullScale.value, 'volts', 'full_scale_v'],
    [expected.value, 'hertz', 'expect_hz'],
  ] as const) {
    if (!text.trim()) continue;
    const parsed = parseQuantity(text, kind);
    if ('reason' in parsed) {
      sentence.value = parsed.reason;
      return null;
    }
    more[name] = parsed.value;
  }
  return more;
}

function give(files: FileList | null | undefined): void {
  const more = told();
  if (!more) return;
  for (const file of files ?? []) emit('file', file, file.name, more);
  if (picker.value) picker.value.value = '';
}

function dropped(event: DragEvent): void {
  over.value = false;
  give(event.dataTransfer?.files);
}

const judging = ref(false);
const refused = ref('');
/** What was refused stays in the box, to be corrected there. */
async function paste(): Promise<void> {
  const more = told();
  const text = pasted.value;
  if (!more || !text.trim()) return;
  judging.value = true;
  try {
    refused.value = await props.judge(text, more);
    // What was typed meanwhile is not what was judged.
    if (!refused.value && pasted.value === text) pasted.value = '';
  } finally {
    judging.value = false;
  }
}
</script>

<template>
  <section
    class="sheet drop"
    :class="{ over }"
    aria-label="Add a capture"
    @dragover.prevent="over = true"
    @dragleave="over = false"
    @drop.prevent="dropped"
  >
    <p class="mb-2">
      <strong>Drop a scope’s CSV export or a WAV file here.</strong> Any delimiter, decimal mark and unit; up
      to 200 MB.
    </p>
    <input
      ref="picker"
      class="visually-hidden"
      type="file"
      multiple
      tabindex="-1"
      aria-label="Files to analyse"
      accept=".csv,.txt,.tsv,.dat,.wav,.tdms,.wfm,.bin,.isf,.trc"
      @change="give(picker?.files)"
    />
    <BButton variant="primary" @click="picker?.click()">Choose files</BButton>
    <FoldBox title="Type or paste numbers">
      <label class="form-label" for="pasted">Volume and volts, one pair a line; or times and volts</label>
      <BFormTextarea
        id="pasted"
        v-model="pasted"
        class="digits"
        rows="6"
        placeholder="24; 1,85"
        spellcheck="false"
      />
      <BButton class="mt-2" variant="primary" :disabled="!pasted.trim() || judging" @click="paste">{{
        judging ? 'Analysing …' : 'Judge these'
      }}</BButton>
      <p class="said-clipped mt-2 mb-0" role="alert">{{ refused }}</p>
    </FoldBox>
    <FoldBox title="Tone and full scale">
      <label class="form-label" for="expected">Tone that should be playing</label>
      <BFormInput id="expected" v-model="expected" class="digits" autocomplete="off" placeholder="any" />
      <label class="form-label mt-2" for="full">Volts at a WAV file’s full scale</label>
      <BFormInput id="full" v-model="fullScale" class="digits" autocomplete="off" placeholder="1 V" />
    </FoldBox>
    <p v-if="sentence" class="said-clipped m-0" role="alert">{{ sentence }}</p>
  </section>
</template>

<style scoped>
.drop {
  display: grid;
  gap: 0.5rem;
  border-style: dashed;
  border-width: 2px;
}
.over {
  border-color: var(--clean);
  background: var(--clean-wash);
}
</style>
