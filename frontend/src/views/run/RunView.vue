<script setup lang="ts">
import { createReusableTemplate, useMediaQuery, useWakeLock } from '@vueuse/core';
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import CautionList from '@/components/CautionList.vue';
import NoteBox from '@/components/NoteBox.vue';
import PhotoStrip from '@/components/PhotoStrip.vue';
import StepMap from '@/components/StepMap.vue';
import { useBenchLink } from '@/composables/useBenchLink';
import { useLasting } from '@/composables/useLasting';
import { useInstruments } from '@/composables/useInstruments';
import { useJob } from '@/composables/useJob';
import { usePreferences } from '@/composables/usePreferences';
import { useRunDesk } from '@/composables/useRunDesk';
import { useSounds } from '@/composables/useSounds';
import { useHeading } from '@/composables/useHeading';
import { toHeading } from '@/support/focus';
import BenchPanel from './BenchPanel.vue';
import { bringSkipDialog, SkipDialog } from './skipDialog';
import SpoiledNote from './SpoiledNote.vue';
import ProbePoint from './ProbePoint.vue';
import { STEPS } from './steps';
import HeardStep from './steps/HeardStep.vue';
import { benchKeys } from './useBenchKeys';
import { useGate } from './useGate';
import { useHeadingBack } from './useHeadingBack';
import { useRunKeys } from './useRunKeys';
import WhoIsAtIt from './WhoIsAtIt.vue';

const route = useRoute();
const router = useRouter();
const open = useJob();
const preferences = usePreferences();
const sounds = useSounds();
const stepKey = computed(() => (route.params.step ? String(route.params.step) : undefined));
const desk = useRunDesk(open, stepKey);
const { run, step, state, index, key } = desk;
const { bench, turn, settling, measuring, simulated, setVolume, kept, keepWave } = useBenchLink(open, desk);
const gate = useGate(desk);
const { all: instruments } = useInstruments();
const meters = computed(() =>
  instruments.value.map((instrument) => ({
    value: instrument.id,
    // The way of reading first: a letter typed on the list tells them apart.
    text: `${instrument.simulated ? 'Live' : 'Typed'}: ${instrument.name}`,
  })),
);

// The address names the step, so that the page stays on it when it is done.
watch(
  key,
  (now) => {
    if (!stepKey.value) go(now);
  },
  { immediate: true },
);
function go(target: string | undefined): void {
  if (target) void router.replace({ name: 'run', params: { id: open.id.value, step: target } });
}
/** On to the next step; after the last one to what came of them. */
function onward(): void {
  if (next.value) go(next.value);
  else void router.push({ name: 'result', params: { id: open.id.value } });
}
const next = computed(() => run.value?.steps[index.value + 1]?.key);
const before = computed(() => run.value?.steps[index.value - 1]?.key);
const optional = computed(() => run.value?.steps.filter((step) => step.optional).length ?? 0);
const skipping = ref(false);
/** The frequency of the reading at hand. */
const wantedHertz = computed(() => desk.asked.value?.wants?.tone?.frequency_hz ?? null);
const unsent = computed(() => desk.outbox.waiting.value.filter((entry) => !entry.sent));
const unsaved = useLasting(() => unsent.value.length);
const fleeting = computed(() => unsent.value.filter((entry) => entry.fleeting).length);

/** The bench is beside the value: in its column, or above it where there is room for one only. */
const [DefineBench, Bench] = createReusableTemplate();
const narrow = useMediaQuery('(max-width: 991.98px)');
const benchShown = computed(
  () => measuring.value && preferences.value.benchOpen && bench.value !== undefined,
);

const knobs = benchKeys(bench, desk, turn);
const body = ref<{ handleKey?: (event: KeyboardEvent) => boolean } | null>(null);
useRunKeys({
  step: (event) => body.value?.handleKey?.(event) ?? false,
  next: onward,
  before: () => go(before.value),
  undo: () => (desk.undo() ? sounds.taken() : sounds.refused()),
  putBack: () => desk.putBack(),
  skip: () => (skipping.value = true),
  turn: () => desk.together.turn(),
  sounds: () => (preferences.value.sounds = !preferences.value.sounds),
  bench: () => (preferences.value.benchOpen = !preferences.value.benchOpen),
  meter: () => {
    const typed = simulated.value;
    if (!typed) preferences.value.typedMeter = preferences.value.meter;
    preferences.value.meter = typed ? preferences.value.typedMeter : 'simulated';
    preferences.value.benchOpen = !typed;
  },
  knobs: () => (preferences.value.benchOpen ? knobs() : {}),
});

// Whoever looks on goes along with the one who works, unless they look around themselves.
const { follows, goesAlong, holder } = desk.together;
watch([follows, goesAlong, () => holder.value?.step], () => {
  if (follows.value && goesAlong.value && run.value?.steps.some((step) => step.key === holder.value?.step))
    go(holder.value?.step);
});

// The step's heading is told and holds the focus, so that Enter is the step's and not some button's.
const heading = useHeading();
watch(key, () => toHeading(heading.value), { flush: 'post' });
useHeadingBack(heading);

// A phone beside the amplifier must not go dark between two readings.
const wake = useWakeLock();
onMounted(bringSkipDialog);
onMounted(() => void wake.request('screen').catch(() => undefined));
onBeforeUnmount(() => void wake.release().catch(() => undefined));

function skip(note: string): void {
  desk.say({ skipped: true, note });
  onward();
}
</script>

<template>
  <DefineBench>
    <BenchPanel
      v-if="benchShown && bench"
      :bench="bench"
      :kept="kept"
      :wanted="wantedHertz"
      :compact="narrow"
      @turn="turn"
      @keep="keepWave"
    />
  </DefineBench>
  <div v-if="run && step && state" class="run">
    <StepMap
      :steps="run.steps"
      :states="run.states.map((state) => state.state)"
      :current="key"
      @choose="go"
    />
    <WhoIsAtIt :together="desk.together" :run="run" />
    <NoteBox v-if="unsaved" class="mt-2" kind="edge" role="status">
      <template v-if="fleeting">
        {{ fleeting }} of {{ unsaved }} waiting to be sent only in this tab: don’t close it.
      </template>
      <template v-else>{{ unsaved }} kept on this device, waiting to be sent.</template>
    </NoteBox>
    <NoteBox v-if="desk.undone.value" class="undone mt-2" kind="plain" role="status">
      Undone: {{ desk.undone.value.words }}.
      <BButton size="sm" variant="plain" @click="desk.putBack()">Redo <kbd>P</kbd></BButton>
    </NoteBox>
    <div class="row g-3 mt-0">
      <section class="col-lg-8" :aria-label="step.title">
        <h1 ref="heading" class="title" tabindex="-1">
          <span class="quiet digits">{{ index + 1 }}/{{ run.steps.length }}</span> {{ step.title }}
          <span v-if="step.optional" class="quiet liked">optional</span>
        </h1>
        <p v-if="!index" class="quiet mb-2">
          {{ run.steps.length }} steps, {{ optional }} of them optional.
          <template v-if="run.left_out?.length">
            Not measured, by choice: {{ run.left_out.join('; ') }}.
            <RouterLink
              class="tap"
              :to="{ name: 'system', params: { id: open.id.value }, query: { part: 'methods' } }"
              >Methods</RouterLink
            >
          </template>
        </p>
        <CautionList :cautions="step.cautions ?? []" />
        <Bench v-if="narrow" />
        <SpoiledNote :run="run" :state="state" @choose="go" />
        <NoteBox v-if="state.state === 'skipped'" kind="edge">
          {{ state.sentence }}. Save a reading or an answer to open it again.
        </NoteBox>
        <component
          :is="step.by_ear ? HeardStep : STEPS[step.kind]"
          ref="body"
          :key="key"
          :desk="desk"
          :gate="gate"
          :meter="open.meter.value"
          :simulated="simulated"
          :settling="settling"
          @volume="setVolume"
          @onward="onward"
        />
        <div class="feet">
          <BButton variant="plain" :disabled="!before" aria-label="Previous step" @click="go(before)"
            >←</BButton
          >
          <BButton variant="plain" @click="desk.undo()">Undo <kbd>U</kbd></BButton>
          <BButton variant="plain" @click="skipping = true">Skip <kbd>S</kbd></BButton>
          <BButton :variant="state.state === 'done' ? 'primary' : 'plain'" class="on" @click="onward">
            {{ next ? 'Next step' : 'To the result' }} <kbd>→</kbd>
          </BButton>
          <RouterLink
            v-if="run.complete && next"
            class="btn btn-primary"
            :to="{ name: 'result', params: { id: open.id.value } }"
          >
            To the result
          </RouterLink>
        </div>
      </section>
      <aside class="col-lg-4 d-grid gap-3 align-content-start">
        <template v-if="measuring && !step.by_ear">
          <div>
            <div class="d-flex flex-wrap align-items-center justify-content-between gap-2">
              <label class="form-label" for="meter">Reading from</label>
              <BFormCheckbox v-model="preferences.benchOpen" switch>Show the simulated bench</BFormCheckbox>
            </div>
            <BFormSelect id="meter" v-model="preferences.meter" :options="meters" />
          </div>
          <Bench v-if="!narrow" />
          <ProbePoint v-if="!benchShown" :run="run" :step="step" />
        </template>
        <PhotoStrip :key="step.key" :job="open.id.value" :shows="{ step: step.key }" :where="step.name" />
        <RouterLink class="btn btn-plain" :to="{ name: 'display', params: { id: open.id.value } }"
          >Large display and tones</RouterLink
        >
      </aside>
    </div>
    <SkipDialog v-if="skipping" v-model="skipping" :title="step.title" @skip="skip" />
  </div>
</template>

<style scoped lang="scss">
@use '@/styles/breakpoints' as at;

.title {
  font-size: 1.5rem;
  margin: 0.3rem 0 0.5rem;
}
.liked {
  font-size: 1rem;
  font-weight: 400;
}
.feet {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem;
  margin-top: 1rem;
}
.feet .on {
  margin-left: auto;
}
@include at.touch {
  .run :deep(kbd) {
    display: none;
  }
}
</style>
