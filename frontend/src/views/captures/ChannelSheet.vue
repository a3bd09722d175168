<script setup lang="ts">
import { computed } from 'vue';
import type { Channel } from '@/api/client';
import VerdictMark from '@/components/VerdictMark.vue';
import { formatDb, formatFixed, formatNumber, formatValue } from '@/support/quantity';
import HarmonicBars from './HarmonicBars.vue';
import LevelPaper from './LevelPaper.vue';
import WavePaper from './WavePaper.vue';

const props = defineProps<{ channel: Channel; laid?: Channel | null }>();
const report = computed(() => props.channel.report);
const broad = computed(() => Boolean(props.channel.sweep ?? props.channel.spectrum));
const signed = (value: number) => formatNumber(value, 3).replace('-', '−');

const figures = computed(() => {
  const { v_rms, v_dc, v_peak_positive, v_peak_negative, frequency_hz, thd_percent, crest_factor } =
    report.value;
  const rows: [string, string | null][] = [
    ['Frequency', frequency_hz == null ? null : formatValue(frequency_hz, 'Hz', 5)],
    ['RMS', formatValue(v_rms, 'V')],
    ['Peaks', `+${formatNumber(v_peak_positive, 3)} / ${signed(v_peak_negative)} V`],
    ['DC', `${signed(v_dc)} V`],
    ['Crest factor', crest_factor == null ? null : formatNumber(crest_factor, 3)],
    ['THD', thd_percent == null ? null : `${formatNumber(thd_percent, 3)} %`],
    [
      'Noise',
      props.channel.below_tone_db == null
        ? null
        : `${formatDb(props.channel.below_tone_db, 0)} below the tone`,
    ],
  ];
  return rows.filter((row): row is [string, string] => row[1] !== null);
});
const clean = computed(() => {
  const { clean_v_rms } = report.value;
  if (clean_v_rms == null) return null;
  const { clean_v_uncertainty: fit, clean_v_instrument: scope, clean_v_together: both } = props.channel;
  const told = (volts: number | null | undefined) => (volts == null ? '' : `± ${formatValue(volts, 'V', 2)}`);
  return {
    volts: formatNumber(clean_v_rms),
    doubt: told(both ?? fit),
    // A file of numbers says nothing of what took it: a small scope's data sheet is counted with.
    apart: scope == null ? '' : `the fit ${told(fit)}, a scope’s data sheet ${told(scope)}`,
  };
});
const worst = computed(() =>
  (props.channel.sweep?.clipped ?? []).reduce(
    (most, range) => (most && most.over_db > range.over_db ? most : range),
    props.channel.sweep?.clipped?.[0],
  ),
);
const over = computed(() => {
  const { over_db, over_db_uncertainty } = worst.value ?? report.value;
  if (over_db == null) return null;
  return { db: formatFixed(over_db, 2), doubt: formatFixed(Math.max(0.01, over_db_uncertainty ?? 0), 2) };
});
const clips = computed(() => props.channel.sweep?.verdict);
</script>

<template>
  <section class="d-grid gap-3" :aria-label="channel.name">
    <div class="sheet head">
      <p class="verdict m-0">
        <template v-if="channel.sweep">
          <VerdictMark v-if="clips && clips !== 'not_a_sweep'" :verdict="clips" />
        </template>
        <strong v-else-if="channel.spectrum">Noise: {{ channel.spectrum.carries.replace('_', ' ') }}</strong>
        <VerdictMark v-else :verdict="report.verdict" />
      </p>
      <p v-if="over && (worst || !broad)" class="figure digits">
        {{ over.db }}<small> dB over{{ worst ? ` at ${formatValue(worst.worst_hz, 'Hz', 3)}` : '' }}</small>
        <span class="quiet">± {{ over.doubt }}</span>
      </p>
      <p v-if="clean && !broad" class="figure digits">
        {{ clean.volts }}<small> V clean</small> <span class="quiet">{{ clean.doubt }}</span>
        <span v-if="clean.apart" class="apart quiet">{{ clean.apart }}</span>
      </p>
    </div>
    <div class="sheet paper">
      <LevelPaper v-if="broad" :channel="channel" />
      <WavePaper v-else :drawing="channel.drawing" :over="laid?.drawing" :name="channel.name" />
      <p v-if="report.over_db != null && !broad" class="key quiet">
        Ink: as measured. Thin red line: the clean sine it was driven with; filled: what was cut off.
      </p>
      <slot name="under" />
    </div>
    <div class="two">
      <div class="sheet">
        <h3 class="h5">Why</h3>
        <ul class="m-0">
          <li v-for="reason in report.reasons" :key="reason">{{ reason }}</li>
        </ul>
      </div>
      <div class="sheet now">
        <h3 class="h5">Next</h3>
        <ul class="m-0">
          <li v-for="order in channel.advice" :key="order">{{ order }}</li>
        </ul>
      </div>
    </div>
    <div v-if="!broad" class="two">
      <dl class="sheet figures digits">
        <template v-for="[name, value] in figures" :key="name">
          <dt>{{ name }}</dt>
          <dd>{{ value }}</dd>
        </template>
      </dl>
      <div v-if="channel.harmonics?.length" class="sheet">
        <h3 class="h5">Harmonics</h3>
        <HarmonicBars :harmonics="channel.harmonics" />
      </div>
    </div>
  </section>
</template>

<style scoped>
.figure .apart {
  display: block;
  margin: 0;
  font-size: 1rem;
}
.head {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 0.2rem 2rem;
}
.verdict {
  font-size: 1.7rem;
}
.figure {
  margin: 0;
  font-size: 2.6rem;
  font-weight: 650;
  line-height: 1.1;
}
.figure small,
.figure span {
  font-size: 0.45em;
}
.figure span {
  margin-left: 0.6em;
}
.paper {
  padding: 0.6rem 0.4rem;
}
.key {
  margin: 0.4rem 0.8rem 0;
  font-size: 0.9rem;
}
.two {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(100%, 300px), 1fr));
  gap: 1rem;
}
.now {
  border-left: 6px solid var(--clean);
}
ul {
  padding-left: 1.1rem;
}
.figures {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 0.25rem 1.2rem;
  margin: 0;
  align-content: start;
}
dd {
  margin: 0;
}
</style>
