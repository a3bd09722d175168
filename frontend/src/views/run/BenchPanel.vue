<script setup lang="ts">
import { computed } from 'vue';
import type { BenchState, BenchView } from '@/api/client';
import BenchKnob from './BenchKnob.vue';
import WaveDrawing from '@/components/WaveDrawing.vue';

const props = defineProps<{
  bench: BenchView;
  kept: string;
  /** The frequency that the step at hand wants. */
  wanted: number | null;
}>();
const emit = defineEmits<{ turn: [knobs: Partial<BenchState>]; keep: [] }>();
const state = computed(() => props.bench.state);

const PROBES = computed(() => [
  { value: 'supply', text: 'Supply' },
  { value: 'source', text: 'Source' },
  ...(props.bench.has_converter ? [{ value: 'converter', text: 'Converter' }] : []),
  ...(props.bench.bridged
    ? [{ value: 'bridge', text: 'Bridge' }]
    : [
        { value: 'left', text: 'Left out' },
        { value: 'right', text: 'Right out' },
      ]),
]);
const SUPPLIES = [
  { value: 12.2, text: 'Battery at rest, 12.2 V' },
  { value: 14.2, text: 'Engine running, 14.2 V' },
];
/** The usual ones, the one that is wanted now and the one that plays. */
const tones = computed(() =>
  [...new Set([1000, 80, 60, 50, 40, ...(props.wanted ? [props.wanted] : []), tone.value.frequency_hz])]
    .sort((one, other) => other - one)
    .map((hertz) => ({ value: hertz, text: hertz >= 1000 ? `${hertz / 1000} kHz` : `${hertz} Hz` })),
);
const LEVELS = [0, -3, -5, -6, -10, -16].map((level) => ({
  value: level,
  text: level ? `−${-level} dBFS` : '0 dBFS',
}));
const tone = computed(() => state.value.tone ?? { frequency_hz: 1000, level_dbfs: 0 });
/** Turns one dial; null takes its filter out of the signal. */
function turnDial(place: number, turned: number | null): void {
  emit('turn', { dials: props.bench.dials.map((one, index) => (index === place ? turned : one.turned)) });
}
const readsAt = (hertz: number | null) => (hertz === null ? 'out' : `reads ${hertz.toFixed(0)} Hz`);
const WAYS: Record<string, string> = {
  disc: 'Disc',
  usb: 'USB',
  wired_phone: 'Phone by wire',
  wireless_phone: 'Phone, wireless',
  auxiliary: 'Auxiliary',
  radio: 'Radio',
};
const ways = computed(() => props.bench.ways.map((value) => ({ value, text: `Plays ${WAYS[value]}` })));
const faults = computed(() => [
  { value: '', text: 'No fault switched on' },
  ...props.bench.faults.map((one) => ({ value: one.fault as string, text: one.words })),
]);
const turnTrim = (turned: number) =>
  emit('turn', { trims: { ...state.value.trims, [state.value.path ?? '']: turned } });
/** As it was turned here; the bench's answer may come later. */
const trim = computed(() => state.value.trims?.[state.value.path ?? ''] ?? props.bench.trim);
const gain = computed(() => state.value.gain ?? 0);
</script>

<template>
  <section class="sheet bench" data-bench aria-label="Simulated bench">
    <h2 class="h5">Simulated bench</h2>
    <WaveDrawing :milliseconds="bench.milliseconds" :volts="bench.volts" :full-v="bench.full_v" />
    <div class="d-flex flex-wrap align-items-center gap-2">
      <BButton variant="plain" @click="emit('keep')">Capture the wave</BButton>
      <span class="quiet" role="status">{{ kept }}</span>
    </div>
    <p v-if="bench.warning" class="said-clipped fw-bold mb-1">{{ bench.warning }}</p>
    <fieldset>
      <legend class="form-label">Probe on</legend>
      <div class="d-flex flex-wrap gap-1">
        <BButton
          v-for="one in PROBES"
          :key="one.value"
          class="flex-fill px-1"
          :variant="state.probe === one.value ? 'primary' : 'plain'"
          :aria-pressed="state.probe === one.value"
          @click="emit('turn', { probe: one.value as BenchState['probe'] })"
        >
          {{ one.text }}
        </BButton>
      </div>
    </fieldset>
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
    <BenchKnob
      name="Gain"
      :label="`Gain knob: ${(gain * 100).toFixed(1)} % up`"
      :turned="gain"
      @turn="(turned) => emit('turn', { gain: turned })"
    />
    <p v-if="bench.lamp !== null" class="mb-0">
      Clip lamp:
      <strong :class="bench.lamp ? 'said-clipped' : 'quiet'">{{ bench.lamp ? 'lit' : 'dark' }}</strong>
    </p>
    <BenchKnob
      v-if="trim !== null"
      name="Trim"
      :label="`Converter’s trim: ${(trim * 100).toFixed(1)} % up`"
      :turned="trim"
      :hair="0.002"
      @turn="turnTrim"
    />
    <div v-for="(one, place) in bench.dials" :key="place">
      <BFormCheckbox
        :model-value="one.turned !== null"
        switch
        @update:model-value="(on) => turnDial(place, on ? (one.name === 'high-pass' ? 0 : 1) : null)"
      >
        {{ one.name }}: {{ readsAt(one.reads_hz) }}
      </BFormCheckbox>
      <BenchKnob
        v-if="one.turned !== null"
        :name="one.name"
        :label="`Dial of the ${one.name}`"
        :turned="one.turned"
        @turn="(turned) => turnDial(place, turned)"
      />
    </div>
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
        (fault) => emit('turn', { faults: fault ? [fault as NonNullable<BenchState['faults']>[number]] : [] })
      "
    />
    <BFormSelect
      aria-label="Supply"
      :model-value="state.supply_v"
      :options="SUPPLIES"
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
        :model-value="state.speakers_on"
        switch
        @update:model-value="(on) => emit('turn', { speakers_on: Boolean(on) })"
      >
        Speakers connected
      </BFormCheckbox>
    </div>
  </section>
</template>

<style scoped>
.bench {
  display: grid;
  gap: 0.6rem;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0.4rem;
}
.form-range {
  min-height: 44px;
}
fieldset {
  margin: 0;
}
</style>
