<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query';
import { computed, onScopeDispose, ref, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import { api } from '@/api/client';
import CautionList from '@/components/CautionList.vue';
import TheBattlement from '@/components/TheBattlement.vue';
import { useBench } from '@/composables/useBench';
import { useJob } from '@/composables/useJob';
import { usePreferences } from '@/composables/usePreferences';
import { useCaptureSender } from '@/composables/useCaptures';
import { useRunDesk } from '@/composables/useRunDesk';
import { useSounds } from '@/composables/useSounds';
import BenchPanel from './BenchPanel.vue';
import ChecklistStep from './ChecklistStep.vue';
import GainStep from './GainStep.vue';
import LadderStep from './LadderStep.vue';
import SkipDialog from './SkipDialog.vue';
import StepMap from './StepMap.vue';
import { useRunKeys } from './useRunKeys';

const route = useRoute();
const router = useRouter();
const open = useJob();
const preferences = usePreferences();
const sounds = useSounds();
const stepKey = computed(() => (route.params.step ? String(route.params.step) : undefined));
const desk = useRunDesk(open, stepKey);
const { run, step, state, index, key } = desk;
const { data: instruments } = useQuery({
  queryKey: ['instruments'],
  queryFn: api.instruments,
  staleTime: Infinity,
});

const measuring = computed(() => step.value?.kind !== 'checklist');
const simulated = computed(() => preferences.value.meter === 'simulated');
const { bench, turn } = useBench(
  open.id,
  computed(() => preferences.value.benchOpen || simulated.value),
);
const { keepBench } = useCaptureSender(open.id);
const kept = ref('');
watch(key, () => (kept.value = ''));
async function keepWave(): Promise<void> {
  kept.value = 'Judging …';
  kept.value = await keepBench(`${step.value?.name ?? 'bench'} at ${bench.value?.state.volume ?? 0}.csv`);
}
const meters = computed(() =>
  (instruments.value ?? []).map((one) => ({
    value: one.id,
    text: one.simulated ? `${one.name}: live` : `${one.name}: typed`,
  })),
);

watch(
  [simulated, measuring, key],
  () => (open.meterStep.value = simulated.value && measuring.value ? key.value : null),
  { immediate: true },
);
onScopeDispose(() => (open.meterStep.value = null));
watch(open.meter, (event) => {
  if (event?.comparison && step.value?.kind === 'gain') sounds.near(event.comparison);
});

// The simulated bench holds one path's amplifier at a time: the open step's.
watch([() => step.value?.path, () => bench.value?.state.path], ([wanted, now]) => {
  if (wanted && bench.value && wanted !== (now ?? run.value?.plan.paths[0]?.path)) turn({ path: wanted });
});

// With the simulated bench in use its volume is the source's volume: one knob, not two.
watch(
  [() => bench.value?.state.volume, simulated, key],
  ([number]) => {
    if (simulated.value && measuring.value && number !== undefined) desk.volume.value = number;
  },
  { immediate: true },
);
function setVolume(number: number): void {
  const whole = Math.max(0, Math.min(desk.topVolume.value, number));
  desk.volume.value = whole;
  if (simulated.value) turn({ volume: whole });
}

// The address names the step, so that the page stays on it when it is done.
watch(
  key,
  (now) => {
    if (!stepKey.value) go(now);
  },
  { immediate: true },
);
function go(target: string | undefined): void {
  if (target) void router.replace({ name: 'run', params: { id: open.id.value, step: target } });
}
const next = computed(() => run.value?.steps[index.value + 1]?.key);
const before = computed(() => run.value?.steps[index.value - 1]?.key);
const skipping = ref(false);

const body = ref<{ handleKey?: (event: KeyboardEvent) => boolean } | null>(null);
useRunKeys({
  step: (event) => body.value?.handleKey?.(event) ?? false,
  next: () => go(next.value),
  before: () => go(before.value),
  undo: () => (desk.undo() ? sounds.taken() : sounds.refused()),
  skip: () => (skipping.value = true),
  sounds: () => (preferences.value.sounds = !preferences.value.sounds),
  bench: () => (preferences.value.benchOpen = !preferences.value.benchOpen),
});

function skip(note: string): void {
  desk.say({ skipped: true, note });
  go(next.value);
}
</script>

<template>
  <div v-if="run && step && state" class="run">
    <TheBattlement
      :steps="run.steps"
      :states="run.states.map((one) => one.state)"
      :current="key"
      @choose="go"
    />
    <p v-if="desk.outbox.waiting.value.length" class="waiting" role="status">
      <template v-if="desk.outbox.kept.value">
        {{ desk.outbox.kept.value }} kept on this device, waiting to be saved.
      </template>
      <template v-else>Saving …</template>
    </p>
    <p v-for="one in desk.outbox.refused.value" :key="one.key" class="refused" role="alert">
      Not saved: {{ one.sentence }}
      <BButton size="sm" variant="plain" @click="desk.outbox.dismiss(one.key)">Seen</BButton>
    </p>
    <div class="row g-3 mt-0">
      <section class="col-lg-8" :aria-label="step.title">
        <h1 class="title">
          <span class="quiet digits">{{ index + 1 }}/{{ run.steps.length }}</span> {{ step.title }}
        </h1>
        <ul v-if="state.spoiled?.length" class="spoiled">
          <li v-for="one in state.spoiled" :key="one.label">
            To redo: {{ one.label }} was {{ one.was }}, is now {{ one.now }}.
          </li>
        </ul>
        <p v-if="state.state === 'skipped'" class="spoiled">
          {{ state.sentence }}. Taking a reading or answering opens it again.
        </p>
        <ChecklistStep v-if="step.kind === 'checklist'" ref="body" :key="`list-${key}`" :desk="desk" />
        <LadderStep
          v-else-if="step.kind === 'ladder'"
          ref="body"
          :key="`ladder-${key}`"
          :desk="desk"
          :meter="open.meter.value"
          :simulated="simulated"
          @volume="setVolume"
        />
        <GainStep
          v-else
          ref="body"
          :key="`gain-${key}`"
          :desk="desk"
          :meter="open.meter.value"
          :simulated="simulated"
          @volume="setVolume"
        />
        <div class="feet">
          <BButton variant="plain" :disabled="!before" aria-label="Step before" @click="go(before)"
            >←</BButton
          >
          <BButton variant="plain" @click="desk.undo()">Undo <kbd>U</kbd></BButton>
          <BButton variant="plain" @click="skipping = true">Skip <kbd>S</kbd></BButton>
          <BButton
            :variant="state.state === 'done' ? 'primary' : 'plain'"
            :disabled="!next"
            class="on"
            @click="go(next)"
          >
            Next step <kbd>→</kbd>
          </BButton>
          <RouterLink
            v-if="!next && state.state === 'done'"
            class="btn btn-primary"
            :to="{ name: 'result', params: { id: open.id.value } }"
          >
            To the result
          </RouterLink>
        </div>
      </section>
      <aside class="col-lg-4 d-grid gap-3 align-content-start">
        <CautionList :cautions="step.cautions ?? []" />
        <template v-if="measuring">
          <div>
            <label class="form-label" for="meter">Reading from</label>
            <BFormSelect id="meter" v-model="preferences.meter" :options="meters" />
          </div>
          <BFormCheckbox v-model="preferences.benchOpen" switch>Show the simulated bench</BFormCheckbox>
          <BenchPanel
            v-if="preferences.benchOpen && bench"
            :bench="bench"
            :kept="kept"
            @turn="turn"
            @keep="keepWave"
          />
          <StepMap v-else :run="run" :step="step" />
        </template>
      </aside>
    </div>
    <SkipDialog v-model="skipping" :title="step.title" @skip="skip" />
  </div>
</template>

<style scoped>
.title {
  font-size: 1.5rem;
  margin: 0.3rem 0 0.5rem;
}
.spoiled {
  list-style: none;
  margin: 0 0 0.6rem;
  padding: 0.4rem 0.8rem;
  border-left: 6px solid var(--ochre);
  background: var(--ochre-wash);
  font-weight: 600;
}
.waiting,
.refused {
  margin: 0.4rem 0 0;
  padding: 0.3rem 0.8rem;
  font-weight: 600;
  background: var(--ochre-wash);
}
.refused {
  background: var(--brick-wash);
}
.feet {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem;
  margin-top: 1rem;
}
.feet .on {
  margin-left: auto;
}
@media (hover: none), (max-width: 600px) {
  .feet kbd {
    display: none;
  }
}
</style>
