<script setup lang="ts">
/** A box to tick that stands in line with the fields beside it. */
const ticked = defineModel<boolean>({ required: true });
defineProps<{ label: string }>();
</script>

<template>
  <div class="check">
    <BFormCheckbox v-model="ticked">{{ label }}</BFormCheckbox>
  </div>
</template>

<style scoped>
.check {
  display: flex;
  align-items: center;
  min-height: 44px;
}
</style>
