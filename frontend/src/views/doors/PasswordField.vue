<script setup lang="ts">
/** A password or PIN, that can be shown while it is typed: gloves and small keys make mistakes. */
import { onMounted, ref, useTemplateRef } from 'vue';
import FormRow from '@/components/FormRow.vue';

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
const input = useTemplateRef<{ element: HTMLInputElement }>('input');
onMounted(() => {
  if (props.focused) input.value?.element.focus();
});
</script>

<template>
  <FormRow v-slot="{ id, about }" :label="label" :hint="hint" :field-id="fieldId">
    <div class="d-flex gap-2">
      <BFormInput
        :id="id"
        ref="input"
        v-model="text"
        :type="shown ? 'text' : 'password'"
        :autocomplete="autocomplete"
        :inputmode="digits ? 'numeric' : 'text'"
        :maxlength="digits ? 8 : 200"
        :aria-describedby="about"
      />
      <BButton
        variant="plain"
        class="text-nowrap flex-shrink-0"
        :aria-pressed="shown"
        @click="shown = !shown"
        >{{ shown ? 'Hide' : 'Show' }}</BButton
      >
    </div>
  </FormRow>
</template>
