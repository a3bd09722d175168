<script setup lang="ts">
/** The whole system in one picture: a tower for every path, all on one scale, from the common source to the speakers. */
import { useElementSize } from '@vueuse/core';
import { computed, nextTick, useTemplateRef } from 'vue';
import type { Chain, PathPlan } from '@/api/client';
import { buildCastle } from '@/support/castle';
import { fitting } from '@/support/tower';

const props = defineProps<{
  paths: readonly PathPlan[];
  chosen: string | undefined;
  /** Which source each path stands on. */
  chain: Chain | undefined;
}>();
const emit = defineEmits<{ choose: [path: string] }>();
function sourceOf(key: string): string {
  const one = props.chain?.paths.find((each) => each.id === key);
  return props.chain?.sources.find((each) => each.id === one?.source)?.name || 'Source';
}
const box = useTemplateRef<HTMLElement>('box');
const { width } = useElementSize(box);
const castle = computed(() => buildCastle(props.paths, Math.max(280, width.value || 1100), sourceOf));
/** The arrows go from tower to tower, as among the choices of one field. */
async function move(by: number): Promise<void> {
  const at = props.paths.findIndex((one) => one.path === props.chosen);
  const to = props.paths[at + by];
  if (!to) return;
  emit('choose', to.path);
  await nextTick();
  box.value?.querySelector<SVGElement>('[aria-pressed=true]')?.focus();
}
const limits = (path: PathPlan) => path.stage_levels.find((one) => one.limiting)?.name ?? 'nothing';
const spoken = (path: PathPlan) =>
  `${path.name}: ${path.target.value.toFixed(1)} volts, limited by ${limits(path)}` +
  (path.stage_levels.some((one) => one.full_headroom_db < -0.05) ? ', over its range at full scale' : '');
</script>

<template>
  <figure ref="box" class="m-0">
    <svg
      :viewBox="`0 0 ${castle.width} ${castle.height}`"
      :width="castle.width"
      :height="castle.height"
      role="group"
      aria-label="Every path from source to speakers, levels in dBV"
    >
      <g v-for="line in castle.lines" :key="line.dbv" class="scale">
        <line x1="38" :x2="castle.width" :y1="line.y" :y2="line.y" />
        <text x="34" :y="line.y + 4">{{ line.dbv < 0 ? `−${-line.dbv}` : line.dbv }}</text>
      </g>
      <g
        v-for="keep in castle.keeps"
        :key="keep.path.path"
        class="keep"
        :class="{ chosen: keep.path.path === chosen, thin: keep.width < 40 }"
        role="button"
        :tabindex="keep.path.path === chosen ? 0 : -1"
        :aria-pressed="keep.path.path === chosen"
        :aria-label="spoken(keep.path)"
        @click="emit('choose', keep.path.path)"
        @keydown.enter.prevent="emit('choose', keep.path.path)"
        @keydown.space.prevent="emit('choose', keep.path.path)"
        @keydown.left.prevent="move(-1)"
        @keydown.right.prevent="move(1)"
      >
        <title>{{ spoken(keep.path) }}</title>
        <rect class="ground" :x="keep.x - 2" y="2" :width="keep.width - 2" :height="castle.height - 24" />
        <template v-for="(bar, place) in keep.bars" :key="place">
          <rect
            class="stone"
            :class="{ limiting: bar.stageLevel.limiting }"
            :x="bar.x"
            :y="bar.y"
            :width="bar.width"
            :height="bar.height"
          />
          <line
            class="ceiling"
            :class="{ over: bar.over }"
            :x1="bar.x"
            :x2="bar.x + bar.width"
            :y1="bar.ceiling"
            :y2="bar.ceiling"
          />
          <path
            v-if="bar.over"
            class="over"
            :d="`M${bar.x + bar.width / 2 - 5} ${bar.ceiling - 3} l5 -9 l5 9 z`"
          />
        </template>
        <text class="label" :x="keep.x + keep.width * 0.42" :y="castle.names + 16">{{ keep.label }}</text>
      </g>
      <g v-for="keep in castle.keeps" :key="keep.path.path" class="bar-names" aria-hidden="true">
        <template v-for="bar in keep.bars" :key="bar.x">
          <text v-if="bar.label" class="bar-name" :x="bar.x + bar.width / 2" :y="castle.base + 14">
            {{ bar.label }}
          </text>
        </template>
      </g>
      <g v-for="foot in castle.feet" :key="foot.x" class="foot">
        <rect :x="foot.x" :y="castle.names + 23" :width="foot.width - 4" height="20" />
        <text :x="foot.x + foot.width / 2" :y="castle.names + 38">{{ fitting(foot.label, foot.width) }}</text>
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
.keep {
  cursor: pointer;
}
.keep:hover .ground {
  fill: var(--clean-wash);
}
.keep:focus-visible {
  outline: none;
}
.chosen .ground {
  fill: var(--clean-wash);
  stroke: var(--ink);
  stroke-width: 1.5;
}
.keep:focus-visible .ground {
  stroke: var(--ochre);
  stroke-width: 3;
}
.stone {
  fill: var(--stone);
  stroke: var(--ink);
  stroke-width: 1;
}
.thin .stone {
  stroke: none;
  fill: var(--grey);
}
.keep .stone.limiting {
  fill: var(--ink);
}
.ceiling {
  stroke: var(--ink);
  stroke-width: 3;
}
.ceiling.over {
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
