<script setup lang="ts">
/** Arrows, circles and words over a photo: a dark line on a light one, so that they are seen on anything. */
import { computed } from 'vue';
import type { PhotoMark } from '@/api/client';
import { arrowPath, MARK_WIDE, radiusOf } from '@/support/photoMarks';

const props = defineProps<{ marks: readonly PhotoMark[]; width: number; height: number }>();
const tall = computed(() => (MARK_WIDE * props.height) / props.width);
const LINES = [
  { class: 'light', width: 13 },
  { class: 'dark', width: 7 },
];
</script>

<template>
  <svg :viewBox="`0 0 ${MARK_WIDE} ${tall}`" aria-hidden="true">
    <template v-for="(mark, index) in marks" :key="index">
      <template v-for="line in LINES" :key="line.class">
        <text
          v-if="mark.kind === 'word'"
          :class="line.class"
          :x="mark.x * MARK_WIDE"
          :y="mark.y * tall + 13"
          :stroke-width="line.class === 'light' ? 8 : 0"
        >
          {{ mark.text }}
        </text>
        <circle
          v-else-if="mark.kind === 'circle'"
          :class="line.class"
          :cx="mark.x * MARK_WIDE"
          :cy="mark.y * tall"
          :r="radiusOf(mark, tall)"
          :stroke-width="line.width"
        />
        <path v-else :class="line.class" :d="arrowPath(mark, tall)" :stroke-width="line.width" />
      </template>
    </template>
  </svg>
</template>

<style scoped>
svg {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
}
circle,
path {
  fill: none;
  stroke-linecap: round;
}
.light {
  stroke: #fff;
}
.dark {
  stroke: #111;
}
text {
  font-size: 40px;
  font-weight: 700;
  stroke-linejoin: round;
}
text.light {
  fill: #fff;
}
text.dark {
  fill: #111;
}
</style>
