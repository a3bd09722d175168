<script setup lang="ts">
import InfoDialog from './InfoDialog.vue';
import { BENCH_KEYS, JOBS_KEYS, KEYS, SYSTEM_KEYS } from '@/support/keys';

const GROUPS = [
  { title: '', keys: KEYS },
  { title: 'While the simulated bench is shown', keys: BENCH_KEYS },
  { title: 'On the System screen', keys: SYSTEM_KEYS },
  { title: 'On the list of jobs', keys: JOBS_KEYS },
];
const open = defineModel<boolean>({ required: true });
</script>

<template>
  <InfoDialog v-model="open" title="Keys">
    <p class="quiet">In the run everything works without a mouse.</p>
    <template v-for="group in GROUPS" :key="group.title">
      <h3 v-if="group.title" class="h6 mt-3">{{ group.title }}</h3>
      <dl class="keys" tabindex="0" :aria-label="group.title || 'Keys'">
        <template v-for="key in group.keys" :key="key.key">
          <dt>
            <kbd>{{ key.key }}</kbd>
          </dt>
          <dd>{{ key.does }}</dd>
        </template>
      </dl>
    </template>
    <p class="quiet mt-3 mb-0">Letters can be switched off in Settings.</p>
  </InfoDialog>
</template>

<style scoped>
.keys {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 0.45rem 1rem;
  margin: 0;
}
.keys dd {
  margin: 0;
}
</style>
