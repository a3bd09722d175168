<script setup lang="ts">
/** What an empty list shows: what the app does, and three ways in. */
defineProps<{ practises: boolean }>();
const emit = defineEmits<{ begin: [practice: boolean]; import: [] }>();
</script>

<template>
  <section class="sheet" aria-labelledby="first-steps">
    <h2 id="first-steps" class="h4">No jobs yet</h2>
    <p class="fs-5">
      Upper Rook works out the target voltage of every amplifier, guides you through the measurements, and
      keeps the record.
    </p>
    <div class="ways">
      <BButton v-if="!practises" class="way" variant="primary" @click="emit('begin', false)">
        <strong>New job</strong>
        <span>Choose a layout, correct the parts, follow the steps.</span>
      </BButton>
      <BButton class="way" variant="plain" @click="emit('begin', true)">
        <strong>Practise on the bench</strong>
        <span>A simulated receiver, amplifier and meter. No vehicle needed.</span>
      </BButton>
      <BButton class="way" variant="plain" @click="emit('import')">
        <strong>Import a file</strong>
        <span>A job file or an archive from another installation.</span>
      </BButton>
    </div>
  </section>
</template>

<style scoped>
.ways {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(15rem, 1fr));
  gap: 0.8rem;
}
.way {
  display: grid;
  gap: 0.2rem;
  padding: 0.9rem;
  text-align: left;
  white-space: normal;
}
</style>
