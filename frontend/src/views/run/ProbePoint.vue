<script setup lang="ts">
import { computed } from 'vue';
import type { RunView, Step } from '@/api/client';
import TheArithmetic from '@/components/TheArithmetic.vue';
import SignalChain from '@/components/SignalChain.vue';

const props = defineProps<{ run: RunView['run']; step: Step }>();
const path = computed(() => props.run.plan.paths.find((path) => path.path === props.step.along));
const PROBES: Record<string, 'source' | 'processor'> = { output: 'source', processor: 'processor' };
const probe = computed(() => PROBES[props.step.point?.kind ?? ''] ?? 'amplifier');
</script>

<template>
  <div v-if="path" class="sheet">
    <SignalChain :stage-levels="path.stage_levels" :probe="probe" />
    <TheArithmetic v-if="step.target" :lines="step.target.because" title="Why this voltage" />
  </div>
</template>
