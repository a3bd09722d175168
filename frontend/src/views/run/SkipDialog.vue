<script setup lang="ts">
import { ref, useId } from 'vue';
import { useFocusBack } from '@/composables/useFocusBack';

const props = defineProps<{ title: string; question?: string }>();
const open = defineModel<boolean>({ required: true });
const emit = defineEmits<{ skip: [note: string] }>();
const id = `why-${useId()}`;
const note = ref('');
const sentence = ref('');

useFocusBack();

function confirm(): void {
  const said = note.value.trim();
  if (!said || said.length > 80) {
    sentence.value = said
      ? `At most 80 characters; these are ${said.length}.`
      : 'Give the reason in a few words. It appears on the sheet.';
    return;
  }
  open.value = false;
  emit('skip', said);
}
</script>

<template>
  <BModal
    v-model="open"
    :title="props.question ?? `Skip: ${props.title}`"
    title-tag="h2"
    :focus="`#${id}`"
    no-animation
  >
    <form :id="`${id}-form`" @submit.prevent="confirm">
      <label class="form-label" :for="id">Why</label>
      <BFormInput :id="id" v-model="note" autocomplete="off" :state="sentence ? false : null" />
      <p v-if="sentence" class="said-clipped mt-1 mb-0" role="alert">{{ sentence }}</p>
    </form>
    <template #footer>
      <BButton variant="plain" @click="open = false">Back</BButton>
      <BButton variant="primary" type="submit" :form="`${id}-form`">Save the reason</BButton>
    </template>
  </BModal>
</template>
