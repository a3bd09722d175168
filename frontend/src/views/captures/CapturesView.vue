<script setup lang="ts">
import { useHeading } from '@/composables/useHeading';
import { computed } from 'vue';
import type { Capture } from '@/api/client';
import { useRoute, useRouter } from 'vue-router';
import { useCaptures } from '@/composables/useCaptures';
import { useJob } from '@/composables/useJob';
import CaptureDrop from './CaptureDrop.vue';
import CaptureList from './CaptureList.vue';
import CaptureSheet from './CaptureSheet.vue';

useHeading();
const { id } = useJob();
const route = useRoute();
const router = useRouter();
const { list, error, sending, send, sendText } = useCaptures(id);
const captures = computed(() => list.value ?? []);
const chosen = computed(() => String(route.params.capture || captures.value[0]?.id || '') || null);

/** Shows what came of it, unless somebody went on to another screen or job meanwhile. */
function open(job: string, kept: Capture): void {
  if (route.name === 'captures' && route.params.id === job)
    void router.push({ name: 'captures', params: { id: job, capture: kept.id } });
}
async function add(
  file: Blob,
  name: string,
  more: { full_scale_v?: number; expect_hz?: number },
): Promise<void> {
  const job = id.value;
  const kept = await send(file, name, more);
  if (kept) open(job, kept);
}
async function judge(text: string, more: { full_scale_v?: number; expect_hz?: number }): Promise<string> {
  const job = id.value;
  const came = await sendText(text, more);
  if (typeof came === 'string') return came;
  open(job, came);
  return '';
}
</script>

<template>
  <h1 ref="heading" tabindex="-1" class="mb-2">Captures</h1>
  <div class="layout">
    <CaptureDrop class="drop" :judge="judge" @file="add" />
    <CaptureList class="list" :captures="captures" :sending="sending" :chosen="chosen" :job="id" />
    <div class="open">
      <CaptureSheet v-if="chosen" :key="chosen" :job="id" :capture="chosen" :others="captures" />
      <p v-else-if="error" class="said-clipped" role="alert">{{ error.message }}</p>
      <div v-else-if="list" class="sheet">
        <h2 class="h4">Nothing captured yet</h2>
        <p class="mb-0">
          Export the trace of a test tone from the scope, or record it, and drop the file here. The analysis
          says clean, at the edge or clipped, by how much, and how sure. With only a meter, paste the volume
          numbers with their volts.
        </p>
      </div>
    </div>
  </div>
</template>

<style scoped lang="scss">
@use '@/styles/breakpoints' as at;

.layout {
  display: grid;
  gap: 1rem;
  grid-template-columns: minmax(0, 1fr) minmax(0, 2fr);
  grid-template-rows: max-content 1fr;
  grid-template-areas: 'drop open' 'list open';
}
.drop {
  grid-area: drop;
}
.list {
  grid-area: list;
  align-content: start;
}
.open {
  grid-area: open;
}
/* On a phone what was just judged stands right below where it was dropped. */
@include at.narrow {
  .layout {
    grid-template-columns: minmax(0, 1fr);
    grid-template-rows: none;
    grid-template-areas: 'drop' 'open' 'list';
  }
}
</style>
