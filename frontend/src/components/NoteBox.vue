<script setup lang="ts">
/** A few words set off by a bar: what is to redo, what can hurt, what went well. The words say it, not the colour. */
defineProps<{ kind: 'edge' | 'clipped' | 'clean' | 'plain' }>();
</script>

<template>
  <div class="note" :class="kind"><slot /></div>
</template>

<style scoped>
.note {
  margin: 0 0 0.6rem;
  padding: 0.4rem 0.8rem;
  border-left: 6px solid var(--grey);
  font-weight: 600;
}
.edge {
  border-color: var(--ochre);
  background: var(--ochre-wash);
}
.clipped {
  border-color: var(--brick);
  background: var(--brick-wash);
}
.clean {
  border-color: var(--clean);
  background: var(--clean-wash);
}
</style>
