<script setup lang="ts">
/** The whole system in one picture: a group of bars for every path, all on one scale, from the common source to the speakers. */
import { formatFixed } from '@/support/quantity';
import { useElementSize } from '@vueuse/core';
import { computed, nextTick, useTemplateRef } from 'vue';
import type { Chain, PathPlan } from '@/api/client';
import { buildOverview } from '@/support/overview';
import { fitting } from '@/support/signalChain';

const props = defineProps<{
  paths: readonly PathPlan[];
  chosen: string | undefined;
  /** Which source each path stands on. */
  chain: Chain | undefined;
}>();
const emit = defineEmits<{ choose: [path: string] }>();
function sourceOf(key: string): string {
  const path = props.chain?.paths.find((path) => path.id === key);
  return props.chain?.sources.find((source) => source.id === path?.source)?.name || 'Source';
}
const box = useTemplateRef<HTMLElement>('box');
const { width } = useElementSize(box);
const overview = computed(() => buildOverview(props.paths, Math.max(280, width.value || 1100), sourceOf));
/** The arrows go from path to path, as among the choices of one field. */
async function move(by: number): Promise<void> {
  const at = props.paths.findIndex((path) => path.path === props.chosen);
  const to = props.paths[at + by];
  if (!to) return;
  emit('choose', to.path);
  await nextTick();
  box.value?.querySelector<SVGElement>('[aria-pressed=true]')?.focus();
}
const limits = (path: PathPlan) => path.stage_levels.find((level) => level.limiting)?.name ?? 'nothing';
const spoken = (path: PathPlan) =>
  `${path.name}: ${formatFixed(path.target.value, 1)} volts, limited by ${limits(path)}` +
  (path.stage_levels.some((level) => level.full_headroom_db < -0.05) ? ', over its range at full scale' : '');
</script>

<template>
  <figure ref="box" class="m-0">
    <svg
      :viewBox="`0 0 ${overview.width} ${overview.height}`"
      :width="overview.width"
      :height="overview.height"
      role="group"
      aria-label="Every path from source to speakers, levels in dBV"
    >
      <g v-for="line in overview.lines" :key="line.dbv" class="scale">
        <line x1="38" :x2="overview.width" :y1="line.y" :y2="line.y" />
        <text x="34" :y="line.y + 4">{{ line.dbv < 0 ? `−${-line.dbv}` : line.dbv }}</text>
      </g>
      <g
        v-for="column in overview.columns"
        :key="column.path.path"
        class="column"
        :class="{ chosen: column.path.path === chosen, thin: column.width < 40 }"
        role="button"
        :tabindex="column.path.path === chosen ? 0 : -1"
        :aria-pressed="column.path.path === chosen"
        :aria-label="spoken(column.path)"
        @click="emit('choose', column.path.path)"
        @keydown.enter.prevent="emit('choose', column.path.path)"
        @keydown.space.prevent="emit('choose', column.path.path)"
        @keydown.left.prevent="move(-1)"
        @keydown.right.prevent="move(1)"
      >
        <title>{{ spoken(column.path) }}</title>
        <rect
          class="ground"
          :x="column.x - 2"
          y="2"
          :width="column.width - 2"
          :height="overview.height - 24"
        />
        <template v-for="(bar, place) in column.bars" :key="place">
          <rect
            class="bar"
            :class="{ limiting: bar.stageLevel.limiting }"
            :x="bar.x"
            :y="bar.y"
            :width="bar.width"
            :height="bar.height"
          />
          <line
            class="clean-maximum"
            :class="{ over: bar.over }"
            :x1="bar.x"
            :x2="bar.x + bar.width"
            :y1="bar.cleanMaximum"
            :y2="bar.cleanMaximum"
          />
          <path
            v-if="bar.over"
            class="over"
            :d="`M${bar.x + bar.width / 2 - 5} ${bar.cleanMaximum - 3} l5 -9 l5 9 z`"
          />
        </template>
        <text class="label" :x="column.x + column.width * 0.42" :y="overview.names + 16">
          {{ column.label }}
        </text>
      </g>
      <g v-for="column in overview.columns" :key="column.path.path" class="bar-names" aria-hidden="true">
        <template v-for="bar in column.bars" :key="bar.x">
          <text v-if="bar.label" class="bar-name" :x="bar.x + bar.width / 2" :y="overview.base + 14">
            {{ bar.label }}
          </text>
        </template>
      </g>
      <g v-for="foot in overview.feet" :key="foot.x" class="foot">
        <rect :x="foot.x" :y="overview.names + 23" :width="foot.width - 4" height="20" />
        <text :x="foot.x + foot.width / 2" :y="overview.names + 38">
          {{ fitting(foot.label, foot.width) }}
        </text>
      </g>
    </svg>
    <figcaption class="quiet small">
      Choose a path. Bar = level in dBV, line above = clean maximum. The filled bar is the limiting part. A
      peak above the line clips at full scale.
    </figcaption>
  </figure>
</template>

<style scoped>
figure {
  overflow: hidden;
}
svg {
  display: block;
  max-width: 100%;
}
.scale line {
  stroke: var(--line);
  stroke-width: 1;
}
.scale text {
  fill: var(--grey);
  font-size: 13px;
  text-anchor: end;
}
.bar-name {
  fill: var(--grey);
  font-size: 13px;
  text-anchor: middle;
}
.ground {
  fill: transparent;
}
.column {
  cursor: pointer;
}
.column:hover .ground {
  fill: var(--clean-wash);
}
.column:focus-visible {
  outline: none;
}
.chosen .ground {
  fill: var(--clean-wash);
  stroke: var(--ink);
  stroke-width: 1.5;
}
.column:focus-visible .ground {
  stroke: var(--ochre);
  stroke-width: 3;
}
.bar {
  fill: var(--stone);
  stroke: var(--ink);
  stroke-width: 1;
}
.thin .bar {
  stroke: none;
  fill: var(--grey);
}
.column .bar.limiting {
  fill: var(--ink);
}
.clean-maximum {
  stroke: var(--ink);
  stroke-width: 3;
}
.clean-maximum.over {
  stroke: var(--brick);
}
path.over {
  fill: var(--brick);
}
.label {
  fill: var(--ink);
  font-size: 14px;
  font-weight: 600;
  text-anchor: middle;
}
.foot rect {
  fill: var(--stone);
  stroke: var(--ink);
}
.foot text {
  fill: var(--ink);
  font-size: 13px;
  text-anchor: middle;
}
</style>
