<script setup lang="ts">
import { computed } from 'vue';
import { toneAddress } from '@/api/client';
import CautionList from '@/components/CautionList.vue';
import FindingList from '@/components/FindingList.vue';
import TheArithmetic from '@/components/TheArithmetic.vue';
import TheTower from '@/components/TheTower.vue';
import { useJob } from '@/composables/useJob';
import { formatNumber, formatValue } from '@/support/quantity';
import CrossoverSheet from './CrossoverSheet.vue';
import KnobDial from './KnobDial.vue';

const { id, view } = useJob();
const run = computed(() => view.value?.run);
const sheet = computed(() => view.value?.job.sheet);
const ceiling = computed(() => run.value?.ceiling);

function cautionsOf(path: string) {
  return run.value?.steps.find((step) => step.path === path)?.cautions ?? [];
}
const FROM = { marked: 'measured', judged: 'judged from the volts', guess: 'by the three-quarter rule' };
</script>

<template>
  <template v-if="run && sheet">
    <div class="d-flex flex-wrap align-items-center justify-content-between gap-2 mb-2">
      <h1 class="m-0">Plan</h1>
      <RouterLink class="btn btn-primary" :to="{ name: 'run', params: { id } }">To the run</RouterLink>
    </div>
    <section v-for="path in run.plan.paths" :key="path.path" class="row g-3 mb-4">
      <div class="col-lg-8 d-grid gap-3">
        <div class="sheet">
          <h2 class="h4 mb-0">{{ path.name }}: set the gain to</h2>
          <p class="target digits">{{ formatNumber(path.target.value) }}<span> V</span></p>
          <p class="mb-1">
            Measured {{ path.probe }}; accepted from {{ formatValue(path.target.limits.low, 'V') }} to
            {{ formatValue(path.target.limits.high, 'V') }}. That is
            {{ formatValue(path.power_w, 'W', 3) }} into {{ formatValue(path.load_ohm, 'Ω')
            }}<template v-if="path.loudness_db != null"
              >, {{ path.loudness_db.toFixed(0) }} dB at 1 m</template
            >.
          </p>
          <TheArithmetic :lines="path.target.because" title="Why this voltage" open />
        </div>
        <FindingList :findings="path.findings" />
        <div class="sheet facts">
          <div>
            <h3 class="h5">Play</h3>
            <p class="mb-1">{{ path.play }}, repeated.</p>
            <TheArithmetic
              v-if="path.tone_because?.length"
              :lines="path.tone_because"
              title="Why this tone"
              open
            />
            <a :href="toneAddress(path.tone.frequency_hz, path.tone.level_dbfs ?? 0)" download
              >Tone as a WAV file</a
            >
          </div>
          <div>
            <h3 class="h5">Source</h3>
            <p class="mb-0">
              <template v-if="ceiling">
                Clean maximum at {{ ceiling.volume }}: {{ formatValue(ceiling.voltage_v, 'V') }},
                {{ FROM[ceiling.basis] }}.
              </template>
              <template v-else>
                {{ formatValue(path.source_v, 'V') }} by its data sheet, until it is measured. With only a
                meter its volume would end at {{ run.plan.fallback_volume }}.
              </template>
              <template v-if="path.courses.length > 3">
                {{ formatValue(path.input_v, 'V', 3) }} of it reach the amplifier.
              </template>
            </p>
          </div>
          <div>
            <h3 class="h5">Gain knob</h3>
            <KnobDial :knob="path.knob" />
            <p class="mb-0">{{ path.knob.sentence }}</p>
            <TheArithmetic v-if="path.knob.because?.length" :lines="path.knob.because" title="Why there" />
          </div>
        </div>
      </div>
      <aside class="col-lg-4 d-grid gap-3 align-content-start">
        <div class="sheet"><TheTower :courses="path.courses" /></div>
        <CautionList :cautions="cautionsOf(path.path)" />
      </aside>
    </section>
    <CrossoverSheet
      v-if="run.plan.crossovers.corners.length || run.plan.crossovers.findings.length"
      class="mt-3"
      :plan="run.plan.crossovers"
    />
  </template>
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
</style>
