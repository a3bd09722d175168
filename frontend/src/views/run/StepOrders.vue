<script setup lang="ts">
import { computed } from 'vue';
import { type Row, type Step, toneAddress } from '@/api/client';

const props = defineProps<{
  step: Step;
  row?: Row | undefined;
  /** Whether the number is one to read at, not one to begin with. */
  exact?: boolean;
}>();
const tone = computed(() => (props.row ? props.row.wants.tone : props.step.wants?.tone));
const play = computed(() => (props.row ? props.row.play : props.step.play));
const scope = computed(() => (props.row ? props.row.scope : props.step.scope));
const volume = computed(() => {
  const wanted = props.step.wants?.volume;
  if (props.step.volume_free && !props.exact) return `from ${wanted} up`;
  return wanted ?? 'the clean maximum';
});
</script>

<template>
  <div>
    <dl class="facts">
      <div v-if="row?.probe || step.probe" class="wide">
        <dt>{{ step.by_ear ? 'Listen to' : 'Probe' }}</dt>
        <dd>{{ row?.probe || step.probe }}</dd>
      </div>
      <div v-if="tone">
        <dt>Play</dt>
        <dd>
          <a class="tap" :href="toneAddress(tone)" download :title="`${play} as a WAV file`">
            {{ play }}
          </a>
        </dd>
      </div>
      <div v-if="step.top_volume">
        <dt>Volume</dt>
        <dd class="digits">{{ volume }}</dd>
      </div>
      <div v-if="scope" class="wide">
        <dt>Scope</dt>
        <dd>{{ scope }}</dd>
      </div>
    </dl>
    <p v-for="line in step.do" :key="line" class="order">{{ line }}</p>
  </div>
</template>

<style scoped lang="scss">
@use '@/styles/breakpoints' as at;

.facts {
  display: grid;
  grid-template-columns: minmax(0, 2fr) minmax(0, 1.3fr) minmax(0, 0.9fr);
  gap: 0.2rem 1.2rem;
  margin: 0 0 0.3rem;
}
.facts dt {
  color: var(--grey);
  font-size: 0.9rem;
}
.facts dd {
  margin: 0;
  font-size: 1.15rem;
  font-weight: 600;
  line-height: 1.25;
}
.order {
  margin: 0;
  font-size: 1.05rem;
}
@include at.phone {
  .facts {
    grid-template-columns: 1fr 1fr;
  }
  .facts .wide {
    grid-column: 1 / -1;
  }
}
</style>
