<script setup lang="ts">
/** A link that works once: as a code that a camera reads, as an address to copy, and how long it lasts. */
import { computed, ref } from 'vue';
import type { Invitation } from '@/api/client';
import SelectField from '@/components/SelectField.vue';
import TrustNote from './TrustNote.vue';

const props = defineProps<{ made: Invitation; what: string }>();
const place = ref('0');
const places = computed(() =>
  props.made.codes.map((code, index) => ({ value: String(index), text: new URL(code.url).host })),
);
const shown = computed(() => props.made.codes[Number(place.value)]);
const address = computed(() => shown.value?.url ?? `${window.location.origin}${props.made.link}`);
const lasts = computed(() => (props.made.minutes > 60 ? 'a day' : `${props.made.minutes} minutes`));
</script>

<template>
  <section class="code-sheet mt-2" role="status">
    <img v-if="shown" :src="shown.code" :alt="`Code ${what}`" width="220" height="220" />
    <div class="beside">
      <p class="mb-2">
        <strong>{{ what }}</strong>. Scan it, or open the address. It works once, for {{ lasts }}: give it to
        nobody else.
      </p>
      <SelectField v-if="places.length > 1" v-model="place" label="Reached at" :options="places" />
      <code class="link">{{ address }}</code>
      <TrustNote class="mt-2" :fingerprint="made.fingerprint" />
    </div>
  </section>
</template>

<style scoped>
.code-sheet {
  display: flex;
  flex-wrap: wrap;
  gap: 1rem;
  align-items: flex-start;
}
.code-sheet img {
  /* A camera needs the white around it, in the dark theme as well. */
  background: #fff;
  border-radius: 4px;
}
.beside {
  flex: 1 1 260px;
  min-width: 0;
}
.link {
  display: block;
  color: inherit;
  overflow-wrap: anywhere;
  user-select: all;
}
</style>
