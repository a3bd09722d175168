<script setup lang="ts">
/** A password or PIN, that can be shown while it is typed: gloves and small keys make mistakes. */
import { computed, onMounted, ref, useId, useTemplateRef } from 'vue';

const props = defineProps<{
  label: string;
  autocomplete: 'current-password' | 'new-password' | 'off';
  hint?: string;
  /** A PIN: phones show digits. */
  digits?: boolean;
  /** Takes the focus as it comes. */
  focused?: boolean;
  /** By which a dialog finds it. */
  fieldId?: string;
}>();
const text = defineModel<string>({ required: true });
const shown = ref(false);
const own = useId();
const id = computed(() => props.fieldId ?? own);
const input = useTemplateRef<{ element: HTMLInputElement }>('input');
onMounted(() => {
  if (props.focused) input.value?.element.focus();
});
</script>

<template>
  <div>
    <label class="form-label" :for="id">{{ label }}</label>
    <div class="d-flex gap-2">
      <BFormInput
        :id="id"
        ref="input"
        v-model="text"
        :type="shown ? 'text' : 'password'"
        :autocomplete="autocomplete"
        :inputmode="digits ? 'numeric' : 'text'"
        :maxlength="digits ? 8 : 200"
        :aria-describedby="`${id}-about`"
      />
      <BButton
        variant="plain"
        class="text-nowrap flex-shrink-0"
        :aria-pressed="shown"
        @click="shown = !shown"
        >{{ shown ? 'Hide' : 'Show' }}</BButton
      >
    </div>
    <div :id="`${id}-about`" class="quiet about">{{ hint }}</div>
  </div>
</template>

<style scoped>
.about {
  font-size: 0.9rem;
  min-height: 1.4em;
}
</style>
