<script setup lang="ts">
/** Where another device finds the app: its address and a code of it. What lets a device in is another code. */
import { useQuery } from '@tanstack/vue-query';
import { computed } from 'vue';
import { api } from '@/api/client';
import FoldBox from '@/components/FoldBox.vue';
import { useDoor } from '@/composables/useDoor';

const { person } = useDoor();
const { data } = useQuery({
  queryKey: ['codes'],
  queryFn: api.codes,
  enabled: computed(() => person.value !== null),
  staleTime: Infinity,
});
</script>

<template>
  <FoldBox v-if="data?.length" title="On another device">
    <div class="d-flex flex-wrap gap-3 align-items-center">
      <img :src="data[0]?.code" alt="Code of this address" width="160" height="160" class="code" />
      <div>
        <p class="mb-1">Open one of these in the workshop’s network:</p>
        <p v-for="address in data" :key="address.url" class="mb-1">
          <code class="address">{{ address.url }}</code>
        </p>
        <p class="quiet mb-0">A device that isn’t known yet has to be let in first, under People.</p>
      </div>
    </div>
  </FoldBox>
</template>

<style scoped>
.code {
  background: #fff;
  border-radius: 4px;
}
.address {
  color: inherit;
  overflow-wrap: anywhere;
}
</style>
