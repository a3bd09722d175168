<script setup lang="ts">
/** The crossovers of a path, in amplifier or processor. */
import { computed } from 'vue';
import type { Path, Proposal } from '@/api/client';
import CheckField from '@/components/CheckField.vue';
import NotSaved from '@/components/NotSaved.vue';
import TheArithmetic from '@/components/TheArithmetic.vue';
import QuantityField from '@/components/QuantityField.vue';
import SelectField from '@/components/SelectField.vue';
import { useLasting } from '@/composables/useLasting';
import { useNewParts } from '@/composables/useNewParts';

type Switch = 'flat' | 'high' | 'low' | 'band';
const props = defineProps<{
  problems: Record<string, string>;
  index: number;
  proposal: Proposal | undefined;
  /** Whether the proposal is that of the sheet before its last change. */
  behind: boolean;
  /** Whether a processor comes just before the amplifier. */
  behindProcessor: boolean;
}>();
const path = defineModel<Path>({ required: true });
const emit = defineEmits<{ take: [proposal: Proposal] }>();

const KINDS = [
  { value: 'high' as const, text: 'High-pass' },
  { value: 'low' as const, text: 'Low-pass' },
];
const ORDERS = [1, 2, 3, 4, 5, 6, 7, 8].map((value) => ({ value, text: `${6 * value} dB an octave` }));
const SHAPES = [
  { value: 'butterworth' as const, text: 'Butterworth' },
  { value: 'linkwitz_riley' as const, text: 'Linkwitz–Riley' },
  { value: 'bessel' as const, text: 'Bessel' },
  { value: 'chosen_q' as const, text: 'Own Q' },
];
const PLACES = [
  { value: 'amplifier' as const, text: 'On amplifier' },
  { value: 'processor' as const, text: 'In processor' },
  { value: 'source' as const, text: 'In source' },
];
const POSITIONS: { value: Switch; text: string }[] = [
  { value: 'flat', text: 'flat' },
  { value: 'high', text: 'high-pass' },
  { value: 'low', text: 'low-pass' },
  { value: 'band', text: 'band-pass' },
];
const SWITCH = [{ value: null, text: 'No such switch' }, ...POSITIONS];
const onAmplifier = computed(() => path.value.filters.some((filter) => filter.place === 'amplifier'));

type Shape = Path['filters'][number]['crossover']['shape'];
/** A Q chosen by hand belongs to 12 dB an octave; any other shape has its own. */
function shapeAs(place: number, shape: Shape): void {
  const crossover = path.value.filters[place]?.crossover;
  if (!crossover) return;
  crossover.shape = shape;
  if (shape === 'chosen_q') Object.assign(crossover, { order: 2, depth_db: null, q: crossover.q ?? 0.7 });
  else crossover.q = null;
}
/** None ticked means that the switch doesn't matter. */
function activeIn(place: number, position: Switch, active: boolean): void {
  const filter = path.value.filters[place];
  if (!filter) return;
  const others = filter.active_in.filter((kept) => kept !== position);
  filter.active_in = active ? [...others, position] : others;
}
const at = (place: number, field: string) =>
  props.problems[`chain.paths.${props.index}.filters.${place}.${field}`];

const shapeProblem = (place: number) =>
  ['crossover', 'crossover.order', 'crossover.shape'].map((field) => at(place, field)).find(Boolean);

const staysBehind = useLasting(() => Number(props.behind));

const { fresh } = useNewParts();
function add(kind: 'high' | 'low'): void {
  const part = fresh(`${kind}_pass`);
  if (part) path.value.filters.push({ ...part, place: props.behindProcessor ? 'processor' : 'amplifier' });
}
function remove(place: number): void {
  path.value.filters.splice(place, 1);
}
function printed(place: number, has: boolean): void {
  const filter = path.value.filters[place];
  if (filter) filter.dial = has ? (fresh('dial') ?? null) : null;
}
</script>

<template>
  <section class="sheet">
    <h2 class="h4">Filters</h2>
    <div v-if="proposal" class="proposal">
      <p class="mb-1">
        <strong>{{ proposal.settled ? 'As proposed:' : 'Proposed:' }}</strong> {{ proposal.words }}.
      </p>
      <TheArithmetic v-if="proposal.because.length" :lines="proposal.because" title="Why so" />
      <BButton
        v-if="!proposal.settled"
        variant="plain"
        :aria-disabled="behind"
        @click="emit('take', proposal)"
        >{{
          proposal.together?.length ? 'Apply these filters and their neighbours' : 'Apply these filters'
        }}</BButton
      >
      <p v-if="staysBehind" class="quiet m-0">This proposal is out of date. Wait for the plan to update.</p>
    </div>
    <p v-else class="quiet">For a proposal, type the speakers’ frequency range.</p>
    <SelectField
      v-if="onAmplifier"
      v-model="path.filter_switch"
      label="Filter switch on the amplifier"
      :options="SWITCH"
      class="switch"
    />
    <p v-if="!path.filters.length" class="quiet">None: this path plays the full range.</p>
    <fieldset
      v-for="(filter, place) in path.filters"
      :key="place"
      class="filter"
      :data-place="`paths.${path.id}.filters`"
    >
      <legend class="visually-hidden">Filter {{ place + 1 }}</legend>
      <SelectField v-model="filter.crossover.kind" label="Filter" :options="KINDS" />
      <QuantityField
        v-model="filter.crossover.corner_hz"
        label="Corner"
        kind="hertz"
        :problem="at(place, 'crossover.corner_hz')"
      />
      <SelectField v-model="filter.crossover.order" label="Slope" :options="ORDERS" />
      <SelectField
        :model-value="filter.crossover.shape"
        label="Shape"
        :options="SHAPES"
        @update:model-value="(shape) => shapeAs(place, shape)"
      />
      <QuantityField
        v-if="filter.crossover.q != null"
        v-model="filter.crossover.q"
        label="Q"
        kind="width"
        :problem="at(place, 'crossover.q')"
      />
      <SelectField v-model="filter.place" label="Location" :options="PLACES" />
      <QuantityField
        v-model="filter.crossover.depth_db"
        :empty="null"
        label="Depth at the corner"
        kind="decibels"
        unknown="by shape"
        :problem="at(place, 'crossover.depth_db')"
      />
      <template v-if="filter.dial">
        <QuantityField
          v-model="filter.dial.lowest_hz"
          label="Knob, lowest"
          kind="hertz"
          :problem="at(place, 'dial')"
        />
        <QuantityField v-model="filter.dial.highest_hz" label="Knob, highest" kind="hertz" />
      </template>
      <fieldset v-if="filter.place === 'amplifier' && path.filter_switch" class="active">
        <legend class="form-label">Active with the switch at</legend>
        <CheckField
          v-for="position in POSITIONS"
          :key="position.value"
          :model-value="filter.active_in.includes(position.value)"
          :label="position.text"
          @update:model-value="(active) => activeIn(place, position.value, active)"
        />
      </fieldset>
      <div class="ends">
        <CheckField
          :model-value="filter.dial != null"
          label="Knob with a scale"
          @update:model-value="(has) => printed(place, has)"
        />
        <CheckField v-if="filter.dial" v-model="filter.dial.times_ten" label="×1/×10 switch" />
        <BButton variant="plain" :aria-label="`Remove filter ${place + 1}`" @click="remove(place)"
          >Remove</BButton
        >
      </div>
      <NotSaved v-if="shapeProblem(place)" class="problem" :problem="shapeProblem(place)!" />
    </fieldset>
    <div v-if="path.filters.length < 8" class="d-flex flex-wrap gap-2">
      <BButton variant="plain" @click="add('high')">Add a high-pass</BButton>
      <BButton variant="plain" @click="add('low')">Add a low-pass</BButton>
    </div>
  </section>
</template>

<style scoped>
.filter {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(9.5rem, 1fr));
  gap: 0 0.6rem;
  padding-bottom: 0.6rem;
  margin-bottom: 0.8rem;
  border-bottom: 1px solid var(--line);
}
.proposal {
  padding-bottom: 0.8rem;
  margin-bottom: 0.8rem;
  border-bottom: 1px solid var(--line);
}
.switch {
  max-width: 16rem;
}
.active {
  display: flex;
  flex-wrap: wrap;
  gap: 0 1rem;
}
.active,
.ends,
.problem {
  grid-column: 1 / -1;
}
.ends {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  align-items: center;
}
</style>
