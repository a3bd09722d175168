<script setup lang="ts">
/** One path's plan: the volts to set, why, with which tone, and what to expect of the knob. */
import { computed } from 'vue';
import { type Doubted, type Finding, type PathPlan, toneAddress } from '@/api/client';
import FindingList from '@/components/FindingList.vue';
import TheArithmetic from '@/components/TheArithmetic.vue';
import { formatNumber, formatValue } from '@/support/quantity';
import AdviceLine from './AdviceLine.vue';
import KnobDial from './KnobDial.vue';
import LevelTable from './LevelTable.vue';

const props = defineProps<{
  job: string;
  path: PathPlan;
  /** What holds for this path and not for every one, by cause. */
  causes: readonly Finding[];
  /** What nobody has confirmed of it. */
  doubts: readonly Doubted[];
}>();
const FROM = {
  marked: 'measured',
  judged: 'judged from the volts',
  rated: 'where it reaches its rated volts',
  guess: 'by the three-quarter rule',
  sheet: 'by its sheet',
  follows: 'copied from another output',
};
const source = computed(() => {
  const { source_v, input_v, input_basis, source_because, stage_levels } = props.path;
  if (source_v == null) return 'Its volts aren’t known yet.';
  const basis = input_basis ? FROM[input_basis] : 'by its data sheet, until it is measured';
  const through = stage_levels.length > 3 && input_v != null;
  return (
    `${formatValue(source_v, 'V', 3)} at its clean maximum, ${basis}.` +
    (source_because ? ` ${source_because}` : '') +
    (through ? ` ${formatValue(input_v, 'V', 3)} reach the amplifier.` : '')
  );
});
</script>

<template>
  <div class="sheet">
    <h2 class="h4 mb-0">{{ path.name }}: set the gain to</h2>
    <p class="target digits">{{ formatNumber(path.target.value) }}<span> V</span></p>
    <p class="mb-1">
      Measured {{ path.probe }}; accepted from {{ formatValue(path.target.limits.low, 'V') }} to
      {{ formatValue(path.target.limits.high, 'V') }}. That is {{ formatValue(path.power_w, 'W', 3) }} into
      {{ formatValue(path.load_ohm, 'Ω') }}.
      <template v-if="path.loudness">{{ path.loudness.sentence }}</template>
    </p>
    <p v-if="doubts.length" class="said-edge mb-1">
      Unchecked defaults in use: {{ doubts.map((doubt) => doubt.words).join('; ') }}.
    </p>
    <TheArithmetic :lines="path.target.because" title="Why this voltage" open />
  </div>
  <FindingList :findings="causes" />
  <div class="sheet">
    <h3 class="h5">Levels</h3>
    <LevelTable :stage-levels="path.stage_levels" :overlap-db="path.overlap_db" />
  </div>
  <div class="sheet facts">
    <div>
      <h3 class="h5">Play</h3>
      <p class="mb-1">{{ path.play }}, repeated.</p>
      <TheArithmetic v-if="path.tone_because?.length" :lines="path.tone_because" title="Why this tone" open />
      <a class="tap d-block" :href="toneAddress(path.tone)" download>Tone as a WAV file</a>
      <a class="tap d-block" :href="`/api/jobs/${job}/tones.zip`" download
        >All tones of this job and pink noise, numbered</a
      >
    </div>
    <div>
      <h3 class="h5">Source and input</h3>
      <p class="mb-1">{{ source }}</p>
      <AdviceLine :advice="path.input_advice" title="Input ranges" />
      <AdviceLine v-for="trim in path.trims" :key="trim.sentence" :advice="trim" title="Why so much" />
    </div>
    <div>
      <h3 class="h5">Gain knob</h3>
      <KnobDial :knob="path.knob" />
      <p class="mb-0">{{ path.knob.sentence }}</p>
      <TheArithmetic v-if="path.knob.because?.length" :lines="path.knob.because" title="Why there" />
    </div>
    <div v-if="path.noise" class="wide">
      <h3 class="h5">Noise</h3>
      <p class="mb-1">{{ path.noise.sentence }}</p>
      <TheArithmetic :lines="path.noise.because" title="Part by part" />
    </div>
  </div>
</template>

<style scoped>
.target {
  font-size: clamp(3.5rem, 9vw, 6rem);
  line-height: 1.1;
  font-weight: 650;
  margin: 0;
}
.target span {
  font-size: 0.5em;
}
.facts {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(220px, 1fr));
  gap: 1rem 2rem;
}
.wide {
  grid-column: 1 / -1;
}
</style>
