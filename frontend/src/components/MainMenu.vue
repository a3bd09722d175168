<script setup lang="ts">
/** The one place that leads everywhere: pages of the workshop, the calculator, settings and keys. */
import { onClickOutside, onKeyStroke } from '@vueuse/core';
import { computed, ref, useTemplateRef, watch } from 'vue';
import { useRoute } from 'vue-router';
import { useDoor } from '@/composables/useDoor';

const emit = defineEmits<{ help: []; settings: []; calculator: [] }>();
const route = useRoute();
const { person, practises } = useDoor();
const open = ref(false);
const menu = useTemplateRef<HTMLDetailsElement>('menu');
const summary = useTemplateRef<HTMLElement>('summary');
const places = computed(() => [
  { name: 'jobs', text: 'Jobs' },
  ...(practises.value
    ? []
    : [
        { name: 'sources', text: 'Sources' },
        { name: 'parts', text: 'Parts' },
        { name: 'logbook', text: 'Logbook' },
      ]),
  { name: 'tones', text: 'Tones' },
  { name: 'people', text: person.value ? 'People and devices' : 'People' },
]);
const close = () => (open.value = false);
watch(() => route.fullPath, close);
onClickOutside(menu, close);
onKeyStroke('Escape', () => {
  if (!open.value) return;
  close();
  summary.value?.focus();
});
function act(what: 'help' | 'settings' | 'calculator'): void {
  summary.value?.focus();
  close();
  if (what === 'help') emit('help');
  else if (what === 'settings') emit('settings');
  else emit('calculator');
}
</script>

<template>
  <details ref="menu" class="menu" :open="open" @toggle="open = ($event.target as HTMLDetailsElement).open">
    <summary ref="summary" class="btn btn-plain">Menu</summary>
    <nav class="list sheet" aria-label="Main menu">
      <RouterLink v-for="place in places" :key="place.name" :to="{ name: place.name }" @click="close">{{
        place.text
      }}</RouterLink>
      <button type="button" @click="act('calculator')">Calculator <kbd class="not-touch">=</kbd></button>
      <button type="button" @click="act('settings')">Settings</button>
      <button type="button" class="not-touch" @click="act('help')">Keys <kbd>?</kbd></button>
    </nav>
  </details>
</template>

<style scoped>
.menu {
  position: relative;
}
summary {
  display: inline-flex;
  align-items: center;
  justify-content: center;
  list-style: none;
}
summary::-webkit-details-marker {
  display: none;
}
.list {
  position: absolute;
  right: 0;
  z-index: 20;
  display: grid;
  min-width: 13rem;
  padding: 0.3rem;
  border-color: var(--ink);
}
.list > * {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 1rem;
  min-height: 44px;
  padding: 0 0.8rem;
  border: 0;
  background: transparent;
  color: var(--ink);
  font-weight: 600;
  text-decoration: none;
}
.list > *:hover {
  background: var(--stone);
}
</style>
