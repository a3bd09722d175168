<script setup lang="ts">
/** A photo that waits on this device, as far as this device can show it. */
import { onBeforeUnmount, onMounted, ref } from 'vue';
import { waitingFile } from '@/composables/useOutbox';
import type { SendingPhoto } from '@/composables/usePhotos';

const props = defineProps<{ entry: SendingPhoto }>();
const address = ref('');
onMounted(async () => {
  const file = await waitingFile(props.entry.key);
  if (file) address.value = URL.createObjectURL(file);
});
onBeforeUnmount(() => {
  if (address.value) URL.revokeObjectURL(address.value);
});
</script>

<template>
  <figure class="m-0">
    <img v-if="address" :src="address" alt="" />
    <figcaption class="quiet">
      <template v-if="entry.refused">Not kept</template>
      <template v-else-if="entry.share > 0">Being sent</template>
      <template v-else-if="entry.fleeting">Waits in this tab: don’t close it</template>
      <template v-else>Waits on this device</template>
    </figcaption>
  </figure>
</template>

<style scoped>
img {
  display: block;
  height: 6rem;
  max-width: 12rem;
  object-fit: contain;
  opacity: 0.6;
}
</style>
