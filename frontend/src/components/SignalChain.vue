<script setup lang="ts">
import { useLeastLetters } from '@/composables/useLeastLetters';
import { computed } from 'vue';
import type { StageLevel } from '@/api/client';
import { formatDb, formatFixed, formatNumber } from '@/support/quantity';
import { buildSignalChain, fitting } from '@/support/signalChain';

const props = defineProps<{
  stageLevels: StageLevel[];
  probe?: 'source' | 'processor' | 'amplifier' | null;
  /** The stage that is being edited; null where a stage may be chosen and none is. */
  chosen?: StageLevel['stage'] | null;
}>();
const emit = defineEmits<{ choose: [stage: StageLevel['stage']] }>();
const editable = computed(() => props.chosen !== undefined);
const STAGES: Record<StageLevel['stage'], string> = {
  source: 'source',
  processor: 'stage between',
  amplifier: 'amplifier',
  speakers: 'speakers',
};
const drawing = computed(() => buildSignalChain(props.stageLevels));
const probed = computed(() => drawing.value.blocks.find((block) => block.stageLevel.stage === props.probe));
const dbv = (value: number) => formatFixed(value, 1);
const spoken = computed(() =>
  props.stageLevels
    .map(
      (level) =>
        `${level.name}: ${formatNumber(level.level_v, 3)} volts, ${formatFixed(level.headroom_db, 1)} decibels below its clean maximum` +
        (level.limiting ? ', limits the path' : ''),
    )
    .join('; '),
);
const letters = useLeastLetters(() => drawing.value.width + 68);
</script>

<template>
  <figure class="m-0">
    <svg
      ref="drawing"
      :style="letters"
      :viewBox="`-34 0 ${drawing.width + 68} ${drawing.height + 6}`"
      :role="editable ? 'group' : 'img'"
      :aria-label="`Levels from the source up. ${spoken}`"
    >
      <rect
        v-for="mark in drawing.marks"
        :key="mark.x"
        class="block"
        :x="mark.x"
        :y="drawing.top - 16"
        :width="mark.width"
        height="16"
      />
      <g
        v-for="(block, level) in drawing.blocks"
        :key="level"
        :class="{ editable, chosen: editable && block.stageLevel.stage === chosen }"
        :role="editable ? 'button' : undefined"
        :tabindex="editable ? 0 : undefined"
        :aria-pressed="editable ? block.stageLevel.stage === chosen : undefined"
        :aria-description="editable ? `Edit the ${STAGES[block.stageLevel.stage]}` : undefined"
        @click="editable && emit('choose', block.stageLevel.stage)"
        @keydown.enter.prevent="editable && emit('choose', block.stageLevel.stage)"
        @keydown.space.prevent="editable && emit('choose', block.stageLevel.stage)"
      >
        <rect
          class="maximum"
          :class="{ limiting: block.stageLevel.limiting }"
          :x="block.maximum.x"
          :y="block.maximum.y"
          :width="block.maximum.width"
          :height="block.maximum.height"
        />
        <rect class="block" :x="block.x" :y="block.y" :width="block.width" :height="block.height" />
        <rect
          v-for="(quoin, index) in block.quoins"
          :key="index"
          class="quoin"
          :x="quoin.x"
          :y="quoin.y"
          :width="quoin.width"
          :height="quoin.height"
        />
        <text class="name" :x="drawing.width / 2" :y="block.y + 21">
          {{ fitting(block.stageLevel.name, block.width - 26) }}
        </text>
        <text class="level" :x="drawing.width / 2" :y="block.y + 41">
          {{ formatNumber(block.stageLevel.level_v, 3) }} V · {{ dbv(block.stageLevel.level_dbv) }} dBV
        </text>
        <text
          class="room"
          :class="{ limiting: block.stageLevel.limiting }"
          :x="drawing.width / 2"
          :y="block.y + 57"
        >
          {{
            block.stageLevel.limiting
              ? 'limits the path'
              : block.stageLevel.headroom_db < 0.05
                ? 'no headroom'
                : `${formatDb(block.stageLevel.headroom_db)} headroom`
          }}
        </text>
      </g>
      <g v-if="probed" class="probe" :transform="`translate(${probed.x + probed.width - 4} ${probed.y + 8})`">
        <path d="M0 6 L20 0 L24 5 L24 11 L20 16 L0 10 Z" />
        <path class="lead" d="M24 8 C 34 8 28 40 34 60" />
      </g>
      <line
        class="ground"
        x1="-20"
        :x2="drawing.width + 20"
        :y1="drawing.height + 2"
        :y2="drawing.height + 2"
      />
    </svg>
    <figcaption class="quiet small">
      Bar = level, line above = clean maximum, source at the bottom.
      <template v-if="editable">Choose a stage to edit it.</template>
    </figcaption>
  </figure>
</template>

<style scoped>
svg {
  display: block;
  width: 100%;
  max-width: 400px;
  margin: 0 auto;
}
.block {
  fill: var(--stone);
  stroke: var(--ink);
  stroke-width: 1.2;
}
.editable {
  cursor: pointer;
}
.editable:hover .block {
  fill: var(--clean-wash);
}
.chosen .block {
  stroke-width: 4;
}
.editable:focus-visible {
  outline: none;
}
.editable:focus-visible .block {
  stroke: var(--ochre);
  stroke-width: 5;
}
.maximum {
  fill: var(--ink);
}
.maximum.limiting {
  fill: var(--ochre);
}
.quoin {
  fill: none;
  stroke: var(--ink);
  stroke-width: 0.8;
}
text {
  fill: var(--ink);
  text-anchor: middle;
  font-size: max(14px, var(--least));
}
.name {
  font-weight: 650;
}
.level {
  font-variant-numeric: tabular-nums;
}
.room {
  font-size: max(13px, var(--least));
}
.room.limiting {
  fill: var(--ochre);
  font-weight: 650;
}
.ground {
  stroke: var(--ink);
  stroke-width: 2.5;
}
.probe path {
  fill: var(--brick);
}
.probe .lead {
  fill: none;
  stroke: var(--brick);
  stroke-width: 2.5;
}
</style>
