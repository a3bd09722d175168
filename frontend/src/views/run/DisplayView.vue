<script setup lang="ts">
/** The run from across the room: it goes along by itself, changes nothing, and plays the tones where that is wanted. */
import { useWakeLock } from '@vueuse/core';
import { computed, onBeforeUnmount, onMounted, watch } from 'vue';
import { useRouter } from 'vue-router';
import CautionList from '@/components/CautionList.vue';
import { useHeading } from '@/composables/useHeading';
import { useJob } from '@/composables/useJob';
import { usePreferences } from '@/composables/usePreferences';
import { useTogether } from '@/composables/useTogether';
import { useTonePlayer } from '@/composables/useTonePlayer';
import { formatDoubt, formatValue, steadyNumber } from '@/support/quantity';
import { formatReading } from '@/support/readings';
import { shownStep } from '@/support/shownStep';
import NotConfirmed from './NotConfirmed.vue';
import SpoiledNote from './SpoiledNote.vue';

useHeading();
const router = useRouter();
const open = useJob();
const preferences = usePreferences();
const run = computed(() => open.view.value?.run);
/** The step that is open next; the last one once all are done. */
const due = computed(() => run.value?.current || run.value?.steps.at(-1)?.key || '');
const { holder } = useTogether(
  open.id,
  computed(() => ({ step: due.value, row: null })),
  true,
);
/** Where the one who works stands, where this page knows of that step already. */
const followed = computed(() =>
  run.value?.steps.some((step) => step.key === holder.value?.step) ? holder.value : undefined,
);
const key = computed(() => followed.value?.step ?? due.value);
const shown = computed(() =>
  open.view.value ? shownStep(open.view.value, key.value, followed.value?.row) : null,
);
const index = computed(() => run.value?.steps.findIndex((step) => step.key === key.value) ?? 0);
const next = computed(() => run.value?.steps[index.value + 1]?.title);

// A meter that is read live is shown as it moves.
watch(
  () =>
    preferences.value.meter === 'simulated' && shown.value?.step.wants
      ? [key.value, shown.value.row?.key].filter(Boolean).join('~')
      : null,
  (step) => (open.meterStep.value = step),
  { immediate: true },
);
onBeforeUnmount(() => (open.meterStep.value = null));
/** The meter shows volts: ohms, seconds and decibels are typed. */
const live = computed(() =>
  /volts$/.test(shown.value?.row?.quantity ?? 'ac_volts') && !open.meter.value?.elsewhere
    ? open.meter.value
    : null,
);
const comparison = computed(() => live.value?.comparison ?? shown.value?.comparison ?? null);
const SAID = { below: 'said-edge', above: 'said-clipped', inside: 'said-clean', unsure: 'said-clean' };
const ARROWS = { below: '▲', above: '▼', inside: '=', unsure: '≈' };
/** The number, and its unit. */
const lastTaken = computed(() =>
  shown.value?.last
    ? formatReading(shown.value.last.value, shown.value.last.quantity).split(/\s(?=\S*$)/)
    : [],
);
const LINES = 3;
const lines = computed(() => shown.value?.open.slice(0, LINES) ?? []);

const { along, sounding, trouble, start, stop } = useTonePlayer(computed(() => shown.value?.tone ?? null));

const toTheRun = (step: string) => router.push({ name: 'run', params: { id: open.id.value, step } });
const wake = useWakeLock();
onMounted(() => void wake.request('screen').catch(() => undefined));
onBeforeUnmount(() => void wake.release().catch(() => undefined));
</script>

<template>
  <section v-if="run && shown" class="display" aria-label="Display">
    <p class="quiet mb-0">
      {{ index + 1 }}/{{ run.steps.length }} ·
      {{ holder ? `follows ${holder.who}` : 'next open step' }}
    </p>
    <h1 ref="heading" class="title" tabindex="-1">{{ shown.step.title }}</h1>
    <SpoiledNote :run="run" :state="shown.state" @choose="toTheRun" />
    <p v-if="shown.row" class="row-name">{{ shown.row.name }}</p>
    <ul v-if="lines.length" class="lines">
      <li v-for="line in lines" :key="line">{{ line }}</li>
      <li v-if="shown.open.length > LINES" class="quiet">and {{ shown.open.length - LINES }} more</li>
    </ul>
    <div class="facts">
      <div v-if="shown.volume !== null">
        <span class="quiet">Volume</span>
        <p :class="/\d/.test(shown.volume) ? 'large digits' : 'large words'">{{ shown.volume }}</p>
      </div>
      <div v-if="shown.target">
        <span class="quiet">Wanted</span>
        <p class="large digits">
          {{ steadyNumber(shown.target.value) }}<small>&nbsp;{{ shown.row?.unit ?? 'V' }}</small>
        </p>
      </div>
      <div v-if="live || shown.last">
        <span class="quiet">{{ live ? 'Now' : 'Last saved' }}</span>
        <p class="large digits" :class="comparison ? SAID[comparison.fit] : ''">
          <template v-if="live">{{ steadyNumber(live.sample.value_v) }}<small>&nbsp;V</small> </template>
          <template v-else-if="shown.last"
            >{{ lastTaken[0] }}<small>&nbsp;{{ lastTaken[1] }}</small></template
          >
        </p>
        <span class="quiet digits">{{
          live
            ? `${formatDoubt(live.sample.uncertainty_v)} V`
            : shown.last?.circumstances.volume == null
              ? ''
              : `at ${shown.last.circumstances.volume}`
        }}</span>
      </div>
    </div>
    <NotConfirmed v-if="shown.target?.not_confirmed?.length" :values="shown.target.not_confirmed" />
    <p class="sentence" :class="comparison ? SAID[comparison.fit] : ''">
      <template v-if="comparison"
        ><span aria-hidden="true">{{ ARROWS[comparison.fit] }}</span> {{ comparison.sentence }}</template
      >
      <template v-else-if="shown.target"
        >Accepted from {{ formatValue(shown.target.limits.low, shown.row?.unit ?? 'V') }} to
        {{ formatValue(shown.target.limits.high, shown.row?.unit ?? 'V') }}.</template
      >
      <template v-else>{{ shown.sentence }}</template>
    </p>
    <CautionList :cautions="shown.step.cautions ?? []" />
    <section class="sheet player" aria-label="Tones on this device">
      <div>
        <p class="tone mb-0" role="status">
          <template v-if="sounding">♪ Playing: {{ shown.play }}</template>
          <template v-else-if="shown.play">To play: {{ shown.play }}</template>
          <template v-else-if="shown.severalTones"
            >This step uses several tones. Play each with its reading.</template
          >
          <template v-else>No tone at this step.</template>
        </p>
        <p v-if="along && !shown.tone" class="quiet mb-0">The next tone starts automatically.</p>
        <p v-if="trouble" class="said-clipped mb-0" role="alert">{{ trouble }}</p>
      </div>
      <BButton class="btn-run" :variant="along ? 'plain' : 'primary'" @click="along ? stop() : start()">{{
        along ? 'Stop the tones' : 'Play the tones here'
      }}</BButton>
      <p class="quiet mb-0 wide">
        Tones start automatically as the run goes on. Keep speakers disconnected until a step says otherwise.
        Use the device that was measured, at the same volume, with its sound effects off.
      </p>
    </section>
    <p v-if="next" class="quiet">Then: {{ next }}</p>
  </section>
</template>

<style scoped lang="scss">
@use '@/styles/breakpoints' as at;

.display {
  padding-top: 0.5rem;
}
.title {
  font-size: clamp(1.8rem, 4.5vw, 3.4rem);
  margin: 0 0 0.4rem;
}
.row-name,
.lines {
  font-size: clamp(1.2rem, 2.4vw, 1.9rem);
}
.facts {
  display: flex;
  flex-wrap: wrap;
  gap: 0.2rem clamp(1.5rem, 6vw, 6rem);
}
.large {
  margin: 0;
  font-size: clamp(3.2rem, 11vw, 8rem);
  font-weight: 700;
  line-height: 1.05;
}
.large.words {
  font-size: clamp(1.6rem, 4vw, 3rem);
}
.large small {
  font-size: 0.45em;
}
.sentence {
  font-size: clamp(1.3rem, 2.8vw, 2.2rem);
  font-weight: 600;
  margin: 0.3rem 0 0.8rem;
}
.player {
  margin-top: 0.8rem;
  display: grid;
  grid-template-columns: minmax(0, 1fr) max-content;
  gap: 0.5rem 1rem;
  align-items: center;
  margin-bottom: 0.8rem;
}
.player .wide {
  grid-column: 1 / -1;
}
.tone {
  font-size: clamp(1.2rem, 2.4vw, 1.8rem);
  font-weight: 600;
}
@include at.phone {
  .player {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
