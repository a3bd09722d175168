<script setup lang="ts">
import { computed } from 'vue';
import { api, type Chain, type DelayProposal, type Load, type Path } from '@/api/client';
import CheckField from '@/components/CheckField.vue';
import QuantityField from '@/components/QuantityField.vue';
import SelectField from '@/components/SelectField.vue';
import TextField from '@/components/TextField.vue';
import CopyFigures from './CopyFigures.vue';
import DelayOffer from './DelayOffer.vue';
import DriversForm from './DriversForm.vue';
import { speakerFigures } from '@/support/specText';
import MeasureOhms from './MeasureOhms.vue';
import SpecText from './SpecText.vue';

const props = defineProps<{
  problems: Record<string, string>;
  place: string;
  pathPlace: string;
  /** The delay that its distance asks for, where every distance is known. */
  delay: DelayProposal | undefined;
  /** Whether that is of the sheet before its last change. */
  behind: boolean;
}>();
const emit = defineEmits<{ align: [] }>();
const chain = defineModel<Chain>('chain', { required: true });
const load = defineModel<Load>({ required: true });
const path = defineModel<Path>('path', { required: true });

const BANDS = [
  { value: 'full' as const, text: 'Full range' },
  { value: 'sub' as const, text: 'Subwoofer' },
];
const BOXES = [
  { value: null, text: 'No box' },
  { value: 'sealed' as const, text: 'Sealed box' },
  { value: 'ported' as const, text: 'Ported box' },
];
const WIRINGS = [
  { value: 'parallel' as const, text: 'In parallel' },
  { value: 'series' as const, text: 'In series' },
  { value: 'series_parallel' as const, text: 'Series-parallel' },
];
const UNSURE = [
  { name: 'lowest_hz' as const, label: 'Plays from', kind: 'hertz' as const, hint: 'By its data sheet' },
  { name: 'highest_hz' as const, label: 'Plays to', kind: 'hertz' as const, hint: '' },
  { name: 'sensitivity_db' as const, label: 'Sensitivity at 1 m', kind: 'decibels' as const, hint: '' },
];
const COILS = ([1, 2, 4] as const).map((value) => ({ value, text: value === 1 ? 'One' : String(value) }));
/** Where a passive crossover divides, with a field for one more. */
const splits = computed(() => {
  const known = load.value.passive_hz;
  return Array.from({ length: Math.min(2, known.length + 1) }, (_, place) => ({
    place,
    hertz: known[place] ?? null,
    label: place ? 'and again at' : 'Passive crossover at',
  }));
});

function divide(place: number, hertz: number | null): void {
  const next: (number | null)[] = [...load.value.passive_hz];
  next[place] = hertz;
  load.value.passive_hz = next.filter((corner) => corner !== null);
}
// A refusal of the load as a whole belongs to how many there are and how they are wired.
const wiringProblem = computed(
  () => props.problems[`${props.place}.wiring`] ?? props.problems[`${props.place}.count`],
);
const STATED_WITH = [
  { value: 'watt' as const, text: '1 W' },
  { value: '2.83v' as const, text: '2.83 V' },
];
</script>

<template>
  <section class="sheet">
    <h2 class="h4">Speakers</h2>
    <CopyFigures v-model:chain="chain" v-model:path="path" kind="load" />
    <div class="row g-2">
      <TextField v-model="load.name" class="col-md-4" label="Speaker" :problem="problems[`${place}.name`]" />
      <TextField
        v-model="path.name"
        class="col-6 col-md-4"
        label="Name of the path"
        hint="Front, rear, sub …"
        :problem="problems[`${pathPlace}.name`]"
      />
      <SelectField v-model="load.band" class="col-6 col-md-4" label="For" :options="BANDS" />
      <QuantityField
        v-model="load.impedance_ohm"
        class="col-6 col-md-4"
        :label="load.coils > 1 ? 'Impedance of one coil' : 'Impedance of one'"
        :mark="`loads.${load.id}.impedance_ohm`"
        :empty="null"
        kind="ohms"
        :problem="problems[`${place}.impedance_ohm`]"
      />
      <QuantityField
        v-model="load.power_w"
        class="col-6 col-md-4"
        label="Rated power of one"
        :mark="`loads.${load.id}.power_w`"
        :empty="null"
        kind="watts"
        hint="Continuous, not peak"
        :problem="problems[`${place}.power_w`]"
      />
      <QuantityField
        v-model="load.count"
        :usual="1"
        class="col-6 col-md-4"
        label="Speakers on one channel"
        kind="count"
        :problem="wiringProblem"
      />
      <SelectField
        v-if="load.count > 1"
        v-model="load.wiring"
        class="col-6 col-md-4"
        label="Wired"
        :options="WIRINGS"
      />
      <MeasureOhms class="col-12" @found="(ohms) => (load.impedance_ohm = ohms)" />
      <QuantityField
        v-for="field in UNSURE"
        :key="field.name"
        v-model="load[field.name]"
        :empty="null"
        class="col-6 col-md-4"
        :label="field.label"
        :kind="field.kind"
        :mark="`loads.${load.id}.${field.name}`"
        :hint="field.hint"
        :problem="problems[`${place}.${field.name}`]"
      />
      <SelectField v-model="load.box" class="col-6 col-md-4" label="Box" :options="BOXES" />
      <QuantityField
        v-if="load.box === 'ported'"
        v-model="load.tuning_hz"
        :empty="null"
        class="col-6 col-md-4"
        label="Box tuned to"
        :mark="`loads.${load.id}.tuning_hz`"
        kind="hertz"
        :problem="problems[`${place}.tuning_hz`]"
      />
      <SelectField v-model="load.coils" class="col-6 col-md-4" label="Voice coils" :options="COILS" />
      <SelectField
        v-if="load.coils > 1"
        v-model="load.coil_wiring"
        class="col-6 col-md-4"
        label="Coils joined"
        :options="load.coils === 4 ? WIRINGS : WIRINGS.slice(0, 2)"
      />
      <QuantityField
        v-for="split in splits"
        :key="split.place"
        :model-value="split.hertz"
        :empty="null"
        class="col-6 col-md-4"
        :label="split.label"
        :mark="`loads.${load.id}.passive_hz`"
        kind="hertz"
        unknown="none"
        :problem="problems[`${place}.passive_hz`] ?? problems[`${place}.passive_hz.${split.place}`]"
        @update:model-value="(hertz) => divide(split.place, hertz)"
      />
      <TextField
        v-if="load.band === 'full'"
        v-model="path.group"
        class="col-6 col-md-4"
        label="Group"
        hint="Same name for woofer and tweeter of one side"
        :problem="problems[`${pathPlace}.group`]"
      />
      <div class="col-12">
        <CheckField v-model="path.inverted" label="Polarity reversed" />
      </div>
      <QuantityField
        v-model="path.delay_ms"
        :usual="0"
        class="col-6 col-md-4"
        label="Delay"
        kind="milliseconds"
        hint="As set in the processor"
        :problem="problems[`${pathPlace}.delay_ms`]"
      />
      <QuantityField
        v-model="path.distance_cm"
        :empty="null"
        class="col-6 col-md-4"
        label="Distance to the seat"
        kind="centimetres"
        unknown="not measured"
        hint="Sums then count delay and distance"
        :problem="problems[`${pathPlace}.distance_cm`]"
      />
      <DelayOffer v-if="delay" class="col-12" :delay="delay" :behind="behind" @align="emit('align')" />
      <QuantityField
        v-model="load.lowest_ohm"
        :empty="null"
        class="col-6 col-md-4"
        label="Lowest impedance of one"
        kind="ohms"
        unknown="not stated"
        :problem="problems[`${place}.lowest_ohm`]"
      />
      <QuantityField
        v-model="load.series_capacitor_uf"
        :empty="null"
        class="col-6 col-md-4"
        label="Series capacitor"
        kind="microfarads"
        unknown="none"
        :problem="problems[`${place}.series_capacitor_uf`]"
      />
      <div v-if="load.sensitivity_db != null" class="col-6 col-md-4">
        <SelectField
          v-model="load.sensitivity_at"
          label="Sensitivity is stated with"
          :options="STATED_WITH"
        />
      </div>
    </div>
    <DriversForm v-model="load" :problems="problems" :place="place" />
    <SpecText
      v-model="load"
      :read="api.readSpeakerSpec"
      :figures="speakerFigures"
      example="Impedance 4 ohm, 80 W RMS, 89 dB (1 W / 1 m), 55 Hz - 22 kHz"
    />
  </section>
</template>
