<script setup lang="ts">
import { formatFixed } from '@/support/quantity';
import { computed } from 'vue';
import type { BenchState, BenchView } from '@/api/client';
import { dialAt, dialOpen, RESTING, RUNNING, trimOf, withDial, withTrim } from '@/support/bench';
import FoldBox from '@/components/FoldBox.vue';
import { WAYS } from '@/support/sources';
import BenchKnob from './BenchKnob.vue';
import WaveDrawing from '@/components/WaveDrawing.vue';

const props = defineProps<{
  bench: BenchView;
  kept: string;
  /** The frequency that the step at hand wants. */
  wanted: number | null;
  /** On a narrow screen what is used at every step comes first, and the rest folds. */
  compact?: boolean;
}>();
const emit = defineEmits<{ turn: [knobs: Partial<BenchState>]; keep: [] }>();
const state = computed(() => props.bench.state);

/** The usual ones, the one that is wanted now and the one that plays. */
const tones = computed(() =>
  [...new Set([1000, 80, 60, 50, 40, ...(props.wanted ? [props.wanted] : []), tone.value.frequency_hz])]
    .sort((level, other) => other - level)
    .map((hertz) => ({ value: hertz, text: hertz >= 1000 ? `${hertz / 1000} kHz` : `${hertz} Hz` })),
);
const LEVELS = [0, -3, -5, -6, -10, -16].map((level) => ({
  value: level,
  text: level ? `−${-level} dBFS` : '0 dBFS',
}));
const tone = computed(() => state.value.tone ?? { frequency_hz: 1000, level_dbfs: 0 });
const readsAt = (hertz: number | null) => (hertz === null ? 'out' : `reads ${formatFixed(hertz, 0)} Hz`);
const ways = computed(() => props.bench.ways.map((value) => ({ value, text: `Plays ${WAYS[value]}` })));
const faults = computed(() => [
  { value: '', text: 'No fault switched on' },
  ...props.bench.faults.map((fault) => ({ value: fault.fault as string, text: fault.words })),
]);
const trim = computed(() => trimOf(props.bench));
const gain = computed(() => state.value.gain ?? 0);
</script>

<template>
  <section class="sheet bench" :class="{ compact }" data-bench aria-label="Simulated bench">
    <h2 class="h5">Simulated bench</h2>
    <WaveDrawing
      class="wave"
      :milliseconds="bench.milliseconds"
      :volts="bench.volts"
      :full-v="bench.full_v"
    />
    <p v-if="bench.warning" class="said-clipped fw-bold mb-1">{{ bench.warning }}</p>
    <fieldset>
      <legend class="form-label">Probe on</legend>
      <div class="d-flex flex-wrap gap-1">
        <BButton
          v-for="probe in bench.probes"
          :key="probe.probe"
          class="flex-fill px-1"
          :variant="state.probe === probe.probe ? 'primary' : 'plain'"
          :aria-pressed="state.probe === probe.probe"
          @click="emit('turn', { probe: probe.probe })"
        >
          {{ probe.words }}
        </BButton>
      </div>
    </fieldset>
    <BenchKnob
      v-if="!bench.alone"
      name="Gain"
      :label="`Gain knob: ${formatFixed(gain * 100, 1)} % up`"
      :turned="gain"
      @turn="(turned) => emit('turn', { gain: turned })"
    />
    <p v-if="bench.lamp !== null" class="mb-0">
      Clip light:
      <strong :class="bench.lamp ? 'said-clipped' : 'quiet'">{{ bench.lamp ? 'lit' : 'dark' }}</strong>
    </p>
    <div class="pair">
      <BFormSelect
        aria-label="Tone"
        :model-value="tone.frequency_hz"
        :options="tones"
        @update:model-value="(hertz) => emit('turn', { tone: { ...tone, frequency_hz: Number(hertz) } })"
      />
      <BFormSelect
        aria-label="Tone level"
        :model-value="tone.level_dbfs ?? 0"
        :options="LEVELS"
        @update:model-value="(level) => emit('turn', { tone: { ...tone, level_dbfs: Number(level) } })"
      />
    </div>
    <BenchKnob
      v-if="trim !== null"
      name="Trim"
      :label="`Converter’s trim: ${formatFixed(trim * 100, 1)} % up`"
      :turned="trim"
      :hair="0.002"
      @turn="(turned) => emit('turn', withTrim(bench, turned))"
    />
    <div v-for="(dial, place) in bench.dials" :key="place">
      <BFormCheckbox
        :model-value="dialAt(bench, place) !== null"
        switch
        @update:model-value="(on) => emit('turn', withDial(bench, place, on ? dialOpen(dial.name) : null))"
      >
        {{ dial.name }}: {{ readsAt(dial.reads_hz) }}
      </BFormCheckbox>
      <BenchKnob
        v-if="dialAt(bench, place) !== null"
        :name="dial.name"
        :label="`Dial of the ${dial.name}`"
        :turned="dialAt(bench, place) ?? 0"
        @turn="(turned) => emit('turn', withDial(bench, place, turned))"
      />
    </div>
    <component :is="compact ? FoldBox : 'div'" class="rest" title="More of the bench">
      <div>
        <label class="form-label" for="bench-volume"
          >Source volume: {{ state.volume }} of {{ bench.top_volume }}</label
        >
        <input
          id="bench-volume"
          class="form-range"
          type="range"
          min="0"
          :max="bench.top_volume"
          :value="state.volume"
          @input="(event) => emit('turn', { volume: Number((event.target as HTMLInputElement).value) })"
        />
      </div>
      <div class="d-flex flex-wrap align-items-center gap-2">
        <BButton variant="plain" @click="emit('keep')">Capture the wave</BButton>
        <span class="quiet" role="status">{{ kept }}</span>
      </div>
      <BFormSelect
        v-if="ways.length"
        aria-label="Way of playing"
        :model-value="state.way ?? ways[0]?.value"
        :options="ways"
        @update:model-value="(way) => emit('turn', { way: way as BenchState['way'] })"
      />
      <BFormSelect
        aria-label="Fault on the bench"
        :model-value="state.faults?.[0] ?? ''"
        :options="faults"
        @update:model-value="
          (fault) =>
            emit('turn', { faults: fault ? [fault as NonNullable<BenchState['faults']>[number]] : [] })
        "
      />
      <BFormSelect
        v-if="!bench.alone"
        aria-label="Supply"
        :model-value="state.supply_v"
        :options="[RESTING, RUNNING]"
        @update:model-value="(volts) => emit('turn', { supply_v: Number(volts) })"
      />
      <div class="d-flex flex-wrap gap-3">
        <BFormCheckbox
          :model-value="state.playing"
          switch
          @update:model-value="(on) => emit('turn', { playing: Boolean(on) })"
        >
          Tone plays
        </BFormCheckbox>
        <BFormCheckbox
          v-if="!bench.alone"
          :model-value="state.speakers_on"
          switch
          @update:model-value="(on) => emit('turn', { speakers_on: Boolean(on) })"
        >
          Speakers connected
        </BFormCheckbox>
      </div>
    </component>
  </section>
</template>

<style scoped lang="scss">
@use '@/styles/breakpoints' as at;

.bench,
.rest {
  display: grid;
  gap: 0.6rem;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0.4rem;
}
/* Where the bench lies above the value it is kept low. */
.compact {
  gap: 0.4rem;
  padding: 0.6rem 0.8rem;
  margin-bottom: 0.6rem;
}
@media (min-width: 520px) {
  .compact {
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
    gap: 0.4rem 1rem;
    align-items: end;
  }
  .compact > h2,
  .compact > .rest {
    grid-column: 1 / -1;
  }
}
.form-range {
  min-height: 44px;
}
fieldset {
  margin: 0;
}
@include at.lying {
  .compact > h2,
  .compact > .wave {
    display: none;
  }
  .compact {
    padding-block: 0.2rem;
  }
}
</style>
