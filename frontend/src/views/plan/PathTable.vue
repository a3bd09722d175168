<script setup lang="ts">
/** Every path in a line of its own: the figures to take to the car, and what is worst about it. */
import { computed, nextTick, useTemplateRef, watch } from 'vue';
import type { Finding, PathPlan } from '@/api/client';
import { formatNumber, formatValue } from '@/support/quantity';

const props = defineProps<{
  paths: readonly PathPlan[];
  /** As it was, where something is tried out. */
  before?: readonly PathPlan[] | undefined;
  causes: readonly Finding[];
  chosen: string | undefined;
}>();
const emit = defineEmits<{ choose: [path: string] }>();

const LIMITS: Record<PathPlan['limited_by'], string> = {
  source: 'source',
  processor: 'processor',
  amplifier: 'amplifier',
  speakers: 'speakers',
};
function knobOf(path: PathPlan): string {
  const { state, printed_v } = path.knob;
  if (state === 'within' && printed_v != null) return `${formatNumber(printed_v, 2)} V`;
  return {
    within: '',
    fully_down: 'too much',
    short: 'too little',
    unmarked: 'bare',
    unknown: '–',
    none: 'none',
  }[state];
}
function cells(path: PathPlan): string[] {
  return [
    `${formatNumber(path.target.value)} V`,
    formatValue(path.tone.frequency_hz, 'Hz', 3),
    `${formatNumber(path.power_w, 3)} W`,
    LIMITS[path.limited_by],
    knobOf(path),
  ];
}
const rows = computed(() => {
  const old = new Map((props.before ?? []).map((path) => [path.path, cells(path)]));
  return props.paths.map((path) => ({
    path,
    cells: cells(path).map((text, place) => {
      const was = old.get(path.path)?.[place];
      return { text, was: was !== undefined && was !== text ? was : '' };
    }),
    worst: props.causes.find((cause) => cause.severity !== 'note' && cause.paths?.includes(path.path)),
  }));
});
const HEADS = ['Volts to set', 'Tone', 'Power', 'Limiting part', 'Knob'];

const table = useTemplateRef<HTMLElement>('table');
watch(
  () => props.chosen,
  async () => {
    await nextTick();
    table.value?.querySelector('[aria-current]')?.scrollIntoView({ block: 'nearest' });
  },
);
</script>

<template>
  <div ref="table" class="sheet all" tabindex="0" role="region" aria-label="Paths">
    <table class="table digits m-0">
      <thead>
        <tr>
          <th scope="col">Path</th>
          <th v-for="head in HEADS" :key="head" scope="col">{{ head }}</th>
          <th scope="col">Problem</th>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="row in rows"
          :key="row.path.path"
          :class="{ chosen: row.path.path === chosen }"
          :aria-current="row.path.path === chosen || undefined"
        >
          <th scope="row">
            <button type="button" class="name" @click="emit('choose', row.path.path)">
              {{ row.path.name }}
            </button>
          </th>
          <td v-for="(cell, place) in row.cells" :key="place" :class="{ large: !place, moved: cell.was }">
            {{ cell.text }}<small v-if="cell.was" class="d-block">was {{ cell.was }}</small>
          </td>
          <td class="worst" :class="row.worst?.severity === 'stop' ? 'said-clipped' : 'said-edge'">
            {{ row.worst ? `${row.worst.severity === 'stop' ? 'Stop' : 'Risk'}: ${row.worst.title}` : '' }}
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped lang="scss">
@use '@/styles/breakpoints' as at;

.all {
  max-height: 46vh;
  overflow: auto;
  padding: 0 0.5rem;
}
thead th {
  position: sticky;
  top: 0;
  background: var(--sheet);
  font-size: 0.9rem;
}
th,
td {
  vertical-align: baseline;
  background: transparent;
}
.chosen {
  background: var(--clean-wash);
}
.name {
  border: 0;
  background: none;
  color: var(--bs-link-color);
  text-decoration: underline;
  text-align: left;
  font-weight: 650;
  min-height: 44px;
  padding: 0;
  overflow-wrap: anywhere;
}
.large {
  font-size: 1.3rem;
  font-weight: 650;
  white-space: nowrap;
}
.moved {
  color: var(--ochre);
}
.moved small {
  font-size: 0.875rem;
  font-weight: 400;
}
@include at.phone {
  .all {
    padding: 0;
  }
  th,
  td {
    padding-inline: 0.3rem;
  }
  th[scope='row'] {
    min-width: 5.6rem;
  }
  .large {
    font-size: 1.15rem;
  }
  .worst {
    font-size: 0.9rem;
  }
  th:nth-child(4),
  td:nth-child(4),
  th:nth-child(5),
  td:nth-child(5),
  th:nth-child(6),
  td:nth-child(6) {
    display: none;
  }
}
</style>
