<script setup lang="ts">
/** A person’s PIN on this device where there is one, else the password. */
import { computed, ref } from 'vue';
import { useDoor } from '@/composables/useDoor';
import PasswordField from './PasswordField.vue';

defineProps<{ trouble: string; action: string; fieldId?: string }>();
const emit = defineEmits<{ proof: [by: { pin: string } | { password: string }] }>();
const { person, byPin } = useDoor();
const hasPin = computed(() => byPin.value.some(({ id }) => id === person.value?.id));
const typed = ref('');
const byPassword = ref(false);
const pinAsked = computed(() => hasPin.value && !byPassword.value);

function send(): void {
  const words = typed.value;
  typed.value = '';
  emit('proof', pinAsked.value ? { pin: words } : { password: words });
}
</script>

<template>
  <form @submit.prevent="send">
    <PasswordField
      :key="String(pinAsked)"
      v-model="typed"
      :label="pinAsked ? 'PIN' : 'Password'"
      :autocomplete="pinAsked ? 'off' : 'current-password'"
      :digits="pinAsked"
      :field-id="fieldId"
      focused
    />
    <p v-if="trouble" class="said-clipped" role="alert">{{ trouble }}</p>
    <div class="d-flex flex-wrap gap-2">
      <BButton type="submit" variant="primary" :disabled="!typed">{{ action }}</BButton>
      <BButton v-if="pinAsked" variant="plain" @click="byPassword = true">By password</BButton>
      <slot />
    </div>
  </form>
</template>
