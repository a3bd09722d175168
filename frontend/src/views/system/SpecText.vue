<script setup lang="ts" generic="Part, Spec extends { unread?: { line: string; reason: string }[] }">
/** Text of a data sheet, pasted: the figures found in it are shown, and put into the form only when they are confirmed. */
import { ref, shallowRef, useId } from 'vue';
import FoldBox from '@/components/FoldBox.vue';
import { useTrying } from '@/composables/useTrying';
import type { SpecFigure } from '@/support/specText';

const props = defineProps<{
  read: (text: string) => Promise<Spec>;
  figures: (spec: Spec) => SpecFigure<Part>[];
  example: string;
}>();
const part = defineModel<Part>({ required: true });
const id = useId();
const text = ref('');
const found = shallowRef<SpecFigure<Part>[] | null>(null);
const unread = shallowRef<{ line: string; reason: string }[]>([]);
const chosen = ref<string[]>([]);
const { trouble, said, trying } = useTrying();

async function look(): Promise<void> {
  await trying(async () => {
    const spec = await props.read(text.value);
    found.value = props.figures(spec);
    unread.value = spec.unread ?? [];
    chosen.value = found.value.map((figure) => figure.key);
  });
}
function use(): void {
  const taken = (found.value ?? []).filter((figure) => chosen.value.includes(figure.key));
  taken.forEach((figure) => figure.put(part.value));
  said.value = taken.length === 1 ? '1 figure is in the form.' : `${taken.length} figures are in the form.`;
  found.value = null;
  unread.value = [];
  text.value = '';
}
</script>

<template>
  <FoldBox title="Paste a data sheet">
    <form @submit.prevent="look">
      <label class="form-label" :for="id">Lines of its data sheet</label>
      <BFormTextarea :id="id" v-model="text" rows="5" :placeholder="example" spellcheck="false" />
      <BButton class="mt-2" variant="primary" type="submit" :disabled="!text.trim()"
        >Find the figures</BButton
      >
    </form>
    <p v-if="trouble" class="said-clipped mt-2 mb-0" role="alert">{{ trouble }}</p>
    <form v-if="found" class="mt-3" @submit.prevent="use">
      <fieldset v-if="found.length">
        <legend class="form-label">Check each against the data sheet</legend>
        <BFormCheckboxGroup v-model="chosen" stacked>
          <BFormCheckbox v-for="figure in found" :key="figure.key" :value="figure.key">
            {{ figure.words }}
            <span v-if="figure.line" class="quiet">“{{ figure.line }}”</span>
          </BFormCheckbox>
        </BFormCheckboxGroup>
        <p v-if="found.some((figure) => figure.line)" class="quiet mb-2">
          Ratings take the place of those in the form.
        </p>
        <BButton variant="primary" type="submit" :disabled="!chosen.length">Put them into the form</BButton>
      </fieldset>
      <p v-else class="mb-0">No figure was found in it.</p>
      <template v-if="unread.length">
        <p class="form-label mt-2 mb-0">Left out</p>
        <ul class="mb-0">
          <li v-for="left in unread" :key="left.line">“{{ left.line }}”: {{ left.reason }}</li>
        </ul>
      </template>
    </form>
    <p class="mb-0" role="status">{{ said }}</p>
  </FoldBox>
</template>
