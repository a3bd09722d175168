<script setup lang="ts">
/** A dialog that shows something and is closed. */
import { onKeyStroke } from '@vueuse/core';
import { useFocusBack } from '@/composables/useFocusBack';

defineProps<{
  title: string;
  large?: boolean;
  /** What has the focus at first, where it isn't the dialog. */
  focus?: string;
}>();
const open = defineModel<boolean>({ required: true });
useFocusBack();
// The dialog itself hears Escape only once it has the focus.
onKeyStroke('Escape', () => (open.value = false));
</script>

<template>
  <BModal
    v-model="open"
    :title="title"
    title-tag="h2"
    :focus="focus"
    :size="large ? 'lg' : undefined"
    ok-only
    ok-title="Close"
    ok-variant="plain"
    no-animation
    scrollable
  >
    <slot />
  </BModal>
</template>
