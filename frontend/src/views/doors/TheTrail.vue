<script setup lang="ts">
/** Who let whom in, took what away, signed what off: the trail that nothing in the app can change. */
import { useInfiniteQuery } from '@tanstack/vue-query';
import { computed } from 'vue';
import { api } from '@/api/client';
import FoldBox from '@/components/FoldBox.vue';
import { whenInWords } from '@/support/words';

const PAGE = 100;
const { data, fetchNextPage, hasNextPage } = useInfiniteQuery({
  queryKey: ['trail'],
  queryFn: ({ pageParam }) => api.trail(pageParam),
  initialPageParam: null as number | null,
  getNextPageParam: (page) => (page.acts.length < PAGE ? undefined : page.acts[page.acts.length - 1]?.number),
});
const acts = computed(() => data.value?.pages.flatMap((page) => page.acts) ?? []);
const kept = computed(() => data.value?.pages[0]?.kept ?? true);
</script>

<template>
  <section class="sheet">
    <FoldBox title="Trail of acts">
      <p v-if="!kept" class="said-edge">
        This database has no trail: it isn’t the app’s own. See docs/doors.md.
      </p>
      <template v-else>
        <p class="quiet">Nothing in the app can change it; a restore leaves it as it is.</p>
        <ul class="people-rows acts" tabindex="0" aria-label="Acts, the newest first">
          <li v-for="act in acts" :key="act.number">
            <span
              ><strong>{{ act.by || 'Somebody' }}</strong> {{ act.what ? `${act.act}: ${act.what}` : act.act
              }}<span v-if="act.device" class="quiet">, {{ act.device }}</span></span
            >
            <span class="quiet text-nowrap">{{ whenInWords(act.at) }}</span>
          </li>
        </ul>
        <div class="d-flex flex-wrap gap-2 mt-2">
          <BButton v-if="hasNextPage" variant="plain" @click="fetchNextPage()">Older ones</BButton>
          <a class="btn btn-plain" href="/api/people/trail.csv" download>Save as CSV</a>
        </div>
      </template>
    </FoldBox>
  </section>
</template>

<style scoped>
.acts {
  max-height: 24rem;
  overflow-y: auto;
}
</style>
