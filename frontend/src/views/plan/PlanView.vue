<script setup lang="ts">
/** The plan: what to know first, the whole system in one picture and a table, then one path at a time in full. */
import { useHeading } from '@/composables/useHeading';
import { computed, nextTick, useTemplateRef } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import CautionList from '@/components/CautionList.vue';
import SignalChain from '@/components/SignalChain.vue';
import { useDrawn } from '@/composables/useDrawn';
import { useJob } from '@/composables/useJob';
import CauseList from './CauseList.vue';
import CrossoverSheet from './CrossoverSheet.vue';
import PathSheet from './PathSheet.vue';
import PathTable from './PathTable.vue';
import PathOverview from '@/components/PathOverview.vue';
import { useWhatIf } from './useWhatIf';
import WhatIf from './WhatIf.vue';

useHeading();
const { id, view } = useJob();
const route = useRoute();
const router = useRouter();
const { tried, plan, before, problem, begin, keep, drop } = useWhatIf(id, view);

const path = computed(
  () => plan.value?.paths.find((path) => path.path === route.query.path) ?? plan.value?.paths[0],
);
const place = computed(
  () => plan.value?.paths.findIndex((planned) => planned.path === path.value?.path) ?? -1,
);
/** What holds for the shown path and not for all: the rest stands above. */
const own = computed(() => {
  const all = plan.value?.paths.length ?? 0;
  return (plan.value?.causes ?? []).filter(
    (cause) => all > 1 && cause.paths?.includes(path.value?.path ?? '') && cause.paths.length < all,
  );
});
const doubts = computed(() =>
  (plan.value?.not_confirmed ?? []).filter((unconfirmed) =>
    unconfirmed.paths.includes(path.value?.path ?? ''),
  ),
);
const named = computed(() => [...(plan.value?.paths ?? []), ...(plan.value?.lacking ?? [])]);
const chain = computed(() => (tried.value ?? view.value?.job.sheet)?.chain);

/** With several paths, the part below picture and table waits for the first frame. */
const drawn = useDrawn();
const full = useTemplateRef<HTMLElement>('full');
async function choose(key: string | undefined, go = false): Promise<void> {
  if (!key) return;
  await router.replace({ query: { ...route.query, path: key } });
  await nextTick();
  if (go) full.value?.scrollIntoView({ block: 'start' });
}
const step = (by: number) => void choose(plan.value?.paths[place.value + by]?.path);
</script>

<template>
  <template v-if="plan">
    <div class="d-flex flex-wrap align-items-center justify-content-between gap-2 mb-2">
      <h1 ref="heading" tabindex="-1" class="m-0">Plan</h1>
      <div class="d-flex flex-wrap gap-2">
        <BButton v-if="!tried" variant="plain" @click="begin">What if …</BButton>
        <RouterLink class="btn btn-primary" :to="{ name: 'run', params: { id } }">To the run</RouterLink>
      </div>
    </div>
    <div class="d-grid gap-2 mb-3 column">
      <p v-for="source in plan.sources" :key="source.source" class="m-0">
        <strong>Never pass{{ plan.sources.length > 1 ? `, ${source.name}` : '' }}: </strong>
        <strong v-if="source.volume != null" class="digits">{{ source.volume }}. </strong>
        {{ source.sentence }}
        <span v-if="source.volume == null" class="quiet"
          >With only a meter: {{ source.fallback_volume }}.</span
        >
      </p>
      <CauseList :causes="plan.causes" :paths="named" />
      <section v-for="lack in plan.lacking" :key="lack.path" class="sheet">
        <h2 class="h5 mb-1">{{ lack.name }}: {{ lack.by_ear ? 'set by ear' : 'not planned yet' }}</h2>
        <p class="m-0">
          {{ lack.sentence }}
          <RouterLink
            class="tap"
            :to="{
              name: 'system',
              params: { id },
              query: lack.field ? { field: lack.field } : { path: lack.path },
            }"
            >Fill it in</RouterLink
          >
        </p>
      </section>
      <WhatIf v-if="tried" v-model="tried" :path="path?.path" :problem="problem" @keep="keep" @drop="drop" />
    </div>
    <template v-if="plan.paths.length > 1 || tried">
      <div class="sheet mb-2">
        <PathOverview
          :paths="plan.paths"
          :chosen="path?.path"
          :chain="chain"
          @choose="(key) => choose(key)"
        />
      </div>
      <PathTable
        class="mb-3"
        :paths="plan.paths"
        :before="before?.paths"
        :causes="plan.causes"
        :chosen="path?.path"
        @choose="(key) => choose(key, true)"
      />
    </template>
    <CautionList class="mb-3" :cautions="plan.common_cautions ?? []" />
    <section
      v-if="path && (drawn || plan.paths.length < 2)"
      ref="full"
      :key="path.path"
      class="row g-3 mb-4"
      :aria-label="`${path.name} in full`"
    >
      <div v-if="plan.paths.length > 1" class="col-12 d-flex gap-2 align-items-center">
        <BButton variant="plain" :disabled="place <= 0" @click="step(-1)">← Previous path</BButton>
        <span class="quiet">{{ place + 1 }} of {{ plan.paths.length }}</span>
        <BButton variant="plain" :disabled="place >= plan.paths.length - 1" @click="step(1)"
          >Next path →</BButton
        >
      </div>
      <div class="col-lg-8 d-grid gap-3 column">
        <PathSheet :job="id" :path="path" :causes="own" :doubts="doubts" />
      </div>
      <aside class="col-lg-4 d-grid gap-3 align-content-start">
        <div class="sheet"><SignalChain :stage-levels="path.stage_levels" /></div>
        <CautionList :cautions="path.cautions ?? []" />
      </aside>
    </section>
    <CrossoverSheet
      v-if="
        drawn &&
        (plan.crossovers.corners.length || plan.crossovers.groups.length || plan.crossovers.proposals.length)
      "
      class="mt-3"
      :plan="plan.crossovers"
      :path="path?.path"
    />
  </template>
</template>

<style scoped>
.column {
  grid-template-columns: minmax(0, 1fr);
}
</style>
