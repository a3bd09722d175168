<script setup lang="ts">
/** The system: the signal chain of the chosen path, and beside it whatever part of it is being edited. */
import { useHeading } from '@/composables/useHeading';
import { computed, nextTick, onScopeDispose, useTemplateRef, watch } from 'vue';
import { useRouter } from 'vue-router';
import { archiveAddress, type StageLevel, jobFileAddress, type Unconfirmed } from '@/api/client';
import { useDoor } from '@/composables/useDoor';
import { provideDoubts } from '@/composables/useDoubts';
import { useJob } from '@/composables/useJob';
import { useNewParts } from '@/composables/useNewParts';
import { usePreferences } from '@/composables/usePreferences';
import { usePreview } from '@/composables/usePreview';
import { useSheetEditor } from '@/composables/useSheetEditor';
import FindingList from '@/components/FindingList.vue';
import NotSaved from '@/components/NotSaved.vue';
import TextField from '@/components/TextField.vue';
import SignalChain from '@/components/SignalChain.vue';
import { firstFocusable } from '@/support/focus';
import { copyOf } from '@/support/ids';
import { formatValue } from '@/support/quantity';
import type { Part } from '@/support/refusals';
import ChoicesForm from './ChoicesForm.vue';
import CustomerForm from './CustomerForm.vue';
import ConflictDialog from './ConflictDialog.vue';
import PartBar from './PartBar.vue';
import PartForm from './PartForm.vue';
import PartInShop from './PartInShop.vue';
import PartPhotos from './PartPhotos.vue';
import PathBar from './PathBar.vue';
import { NOUNS, STAGES, TEXTS } from './partNames';
import SaveMark from './SaveMark.vue';
import SystemPicture from './SystemPicture.vue';
import UnconfirmedBox from './UnconfirmedBox.vue';
import { useCorrections } from './useCorrections';
import { useNewFields } from './useNewFields';
import { useProposal } from './useProposal';
import { useSheetHistory } from './useSheetHistory';
import { useSystemKeys } from './useSystemKeys';
import { useSystemPlace } from './useSystemPlace';
import { ofPart, valueAt } from './useUnconfirmed';

useHeading();
const { id, view, job, saving } = useJob();
const preferences = usePreferences();
const { sheet, adopted, changes, state, kept, problems, conflict, settle } = useSheetEditor(
  id,
  job,
  () => preferences.value.name,
);
const { canUndo, canRedo, told: turned, undo, redo } = useSheetHistory(sheet, adopted, changes);
// A version that this page is saving just now is told to it as well; it waits to know its own.
watch(state, (now) => (saving.value = now === 'saving'));
onScopeDispose(() => (saving.value = false));
const { asking } = useNewParts();
/** The system to edit, once new parts can be added to it. */
const chain = computed(() => (asking.value ? undefined : sheet.value?.chain));
const form = useTemplateRef<HTMLElement>('form');
const { chosen, part } = useSystemPlace(chain, form);
useNewFields(form);
const joined = computed(() => chain.value?.paths[chosen.value]);
const { plan, behind } = usePreview(
  id,
  sheet,
  computed(() => view.value?.run.plan),
  changes,
);
const path = computed(() => plan.value?.paths.find((path) => path.path === joined.value?.id));
const lack = computed(() => plan.value?.lacking?.find((lacking) => lacking.path === joined.value?.id));
const { proposal, delay, take, align } = useProposal(sheet, plan, joined, behind);
const names = computed(
  () =>
    new Map(
      [...(plan.value?.paths ?? []), ...(plan.value?.lacking ?? [])].map((path) => [path.path, path.name]),
    ),
);
/** What holds for the chosen path or for the whole system, by cause. */
const found = computed(() =>
  (plan.value?.causes ?? []).filter(
    (cause) => !cause.paths?.length || cause.paths.includes(joined.value?.id ?? ''),
  ),
);
const unconfirmed = computed(() => plan.value?.not_confirmed ?? []);
provideDoubts({
  all: unconfirmed,
  doubt: (place) =>
    void nextTick(() => {
      if (!sheet.value) return;
      const others = sheet.value.not_confirmed.filter((unconfirmed) => unconfirmed.place !== place);
      const value = copyOf(valueAt(sheet.value.chain, place)) as Unconfirmed['value'];
      sheet.value.not_confirmed = [...others, { place, value }];
    }),
});
const partName = computed(() => NOUNS[part.value]);
const marks = computed(() => ofPart(unconfirmed.value, joined.value, part.value));
function confirm(places: readonly string[]): void {
  if (!sheet.value) return;
  const done = new Set(places);
  sheet.value.not_confirmed = sheet.value.not_confirmed.filter((unconfirmed) => !done.has(unconfirmed.place));
}

/** A source by itself has no other part. */
const alone = computed(() => sheet.value?.subject === 'source');
const { may } = useDoor();
const hasCustomer = computed(() => !alone.value && !sheet.value?.practice && may('customers'));
const { wrongPart, wrongPaths, loose } = useCorrections(chain, problems);
const parts = computed(() =>
  TEXTS.filter(([key]) => !alone.value || key === 'vehicle' || key === 'source').map(([key, text]) => ({
    key,
    text: alone.value && key === 'vehicle' ? 'Unit' : text,
    wrong: wrongPart(chosen.value, key),
  })),
);
const stage = computed(
  () => (Object.keys(STAGES) as StageLevel['stage'][]).find((stage) => STAGES[stage] === part.value) ?? null,
);
const router = useRouter();
const onward = computed(() => (alone.value ? 'run' : 'plan'));
useSystemKeys(form, {
  path(index) {
    if (index >= (chain.value?.paths.length ?? 0)) return false;
    chosen.value = index;
    return true;
  },
  part(index) {
    const to = parts.value[index]?.key;
    if (to) part.value = to;
    return to !== undefined;
  },
  plan: () => void router.push({ name: onward.value, params: { id: id.value } }),
});

/** A part chosen in the picture of the whole system. */
async function open(index: number, which: Part): Promise<void> {
  chosen.value = index;
  part.value = which;
  await nextTick();
  form.value?.scrollIntoView({ block: 'nearest' });
  firstFocusable(form.value)?.focus();
}
async function choose(stage: StageLevel['stage']): Promise<void> {
  part.value = STAGES[stage];
  await nextTick();
  form.value?.scrollIntoView({ block: 'nearest' });
  form.value?.querySelector<HTMLElement>('input, select, textarea')?.focus();
}
</script>

<template>
  <div class="d-flex flex-wrap align-items-center justify-content-between gap-2 mb-2">
    <h1 ref="heading" tabindex="-1" class="m-0">{{ alone ? 'Source' : 'System' }}</h1>
    <div class="d-flex flex-wrap align-items-center gap-3">
      <SaveMark :state="state" :kept="kept" :turned="turned" />
      <div class="d-flex gap-1">
        <BButton variant="plain" :disabled="!canUndo" :title="turned || 'Ctrl Z'" @click="undo">Undo</BButton>
        <BButton variant="plain" :disabled="!canRedo" title="Ctrl Y" @click="redo">Redo</BButton>
      </div>
      <RouterLink class="btn btn-plain" :to="{ name: 'history', params: { id } }">History</RouterLink>
      <a class="btn btn-plain" :href="jobFileAddress(id)" download>Job file</a>
      <a class="btn btn-plain" :href="archiveAddress(id)" download title="With readings and captures (zip)">
        Archive
      </a>
      <RouterLink class="btn btn-primary" :to="{ name: onward, params: { id } }"
        >To the {{ onward }} <kbd class="not-touch">Ctrl Enter</kbd></RouterLink
      >
    </div>
  </div>
  <div v-if="sheet && chain && joined" class="system" :class="{ alone }">
    <section v-if="!alone" class="sheet path-bar" aria-label="Paths">
      <SystemPicture
        :chain="chain"
        :chosen="chosen"
        :part="part"
        :wrong-paths="wrongPaths"
        :wrong-part="wrongPart"
        :marks="unconfirmed"
        @choose="open"
      />
      <PathBar v-model:chain="sheet.chain" v-model:marks="sheet.not_confirmed" v-model:chosen="chosen" />
    </section>
    <section v-if="!alone" class="signal-chain sheet">
      <template v-if="path">
        <h2 class="h5">{{ path.name }}: {{ formatValue(path.target.value, 'V') }}</h2>
        <SignalChain :stage-levels="path.stage_levels" :chosen="stage" @choose="choose" />
      </template>
      <template v-else-if="lack">
        <h2 class="h5">{{ lack.name }}: {{ lack.by_ear ? 'set by ear' : 'not planned yet' }}</h2>
        <p class="m-0">{{ lack.sentence }}</p>
      </template>
    </section>
    <div class="part">
      <PartBar v-model="part" :parts="parts" />
      <UnconfirmedBox :found="marks" :all="unconfirmed" :part="partName" @confirm="confirm" />
      <div ref="form" class="form">
        <section v-if="part === 'vehicle'" class="sheet">
          <h2 class="h4">{{ alone ? 'Unit' : 'Vehicle' }}</h2>
          <TextField
            v-model="sheet.vehicle"
            :label="alone ? 'Unit' : 'Vehicle'"
            :problem="problems['vehicle']"
          />
          <TextField v-model="sheet.note" label="Note" :problem="problems['note']" long />
        </section>
        <CustomerForm v-if="part === 'vehicle' && hasCustomer" :job="id" />
        <ChoicesForm
          v-if="part === 'methods'"
          v-model="sheet.choices"
          :problems="problems"
          :converters="sheet.chain.processors.some((processor) => processor.kind === 'converter')"
        />
        <PartForm
          v-else-if="part !== 'vehicle'"
          :key="`${joined.id} ${joined.source}`"
          v-model="sheet"
          :part="part"
          :index="chosen"
          :problems="problems"
          :proposal="proposal"
          :delay="delay"
          :behind="behind"
          @take="take"
          @align="align"
        />
      </div>
      <PartInShop v-model="sheet" :job="id" :part="part" :path="joined" />
      <PartPhotos :job="id" :part="part" :chain="chain" :path="joined" />
      <p v-if="loose" class="m-0" role="alert"><NotSaved :problem="loose" /></p>
    </div>
    <FindingList class="found" :findings="found" :names="names" />
  </div>
  <ConflictDialog v-if="conflict" :differs="conflict.differs" @settle="settle" />
</template>

<style scoped lang="scss">
@use '@/styles/breakpoints' as at;

.system {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  grid-template-areas: 'paths' 'chain' 'part' 'found';
  gap: 0.8rem;
}
.system.alone {
  display: block;
}
.path-bar {
  grid-area: paths;
  display: flex;
  flex-wrap: wrap;
  align-items: end;
  gap: 0.8rem 2rem;
}
.path-bar > :first-child {
  flex: 0 1 auto;
  min-width: 0;
  max-width: 100%;
}
.path-bar > :last-child {
  flex: 1 1 20rem;
}
.signal-chain {
  grid-area: chain;
}
.part {
  grid-area: part;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 0.8rem;
  align-content: start;
}
.found {
  grid-area: found;
  align-content: start;
}
@include at.wide {
  .system {
    grid-template-columns: minmax(0, 4fr) minmax(0, 8fr);
    grid-template-rows: auto auto 1fr;
    grid-template-areas: 'paths paths' 'chain part' 'found part';
  }
}
</style>
