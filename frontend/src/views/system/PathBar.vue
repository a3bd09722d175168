<script setup lang="ts">
/** Adding and removing paths, and beginning from a layout. */
import { useQuery } from '@tanstack/vue-query';
import { computed, ref, shallowRef } from 'vue';
import { api, type Chain, type JobSheet, Refusal, type Unconfirmed } from '@/api/client';
import { useJob } from '@/composables/useJob';
import { useTemplates } from '@/composables/useTemplates';
import SelectField from '@/components/SelectField.vue';
import { copyOf, freeSections, newId, takeOut, takeOutAmplifier } from '@/support/ids';
import { ownAmplifier } from '@/support/sharing';

const { id } = useJob();
const chain = defineModel<Chain>('chain', { required: true });
const marks = defineModel<Unconfirmed[]>('marks', { required: true });
const chosen = defineModel<number>('chosen', { required: true });

const { data: templates } = useTemplates();
const { data: jobs } = useQuery({ queryKey: ['jobs', 'newest'], queryFn: () => api.jobs({}) });
const from = ref('');
const sentence = ref('');
const layouts = computed(() => [
  { value: '', text: 'choose …' },
  ...(templates.value ?? []).map((template) => ({ value: `template ${template.key}`, text: template.name })),
  ...(jobs.value?.jobs ?? [])
    .filter((job) => job.id !== id.value && !job.summary?.alone)
    .map((job) => ({
      value: `job ${job.id}`,
      text: `Like ${job.practice ? 'practice: ' : ''}${job.vehicle || 'an unnamed vehicle'}`,
    })),
]);
/** What stood here before the last path was taken out or everything was replaced. */
const before = shallowRef<Begun>();
const asItIs = (): Begun => ({ chain: copyOf(chain.value), not_confirmed: copyOf(marks.value) });

/** A system to begin with, and which of its values nobody has confirmed. */
type Begun = Pick<JobSheet, 'chain' | 'not_confirmed'>;
async function begunFrom(chosenOne: string): Promise<Begun | undefined> {
  const [kind, ...name] = chosenOne.split(' ');
  if (kind === 'job') return (await api.job(name.join(' '))).sheet;
  return templates.value?.find((template) => template.key === name.join(' '));
}

async function begin(): Promise<void> {
  let found: Begun | undefined;
  sentence.value = '';
  try {
    found = await begunFrom(from.value);
  } catch (problem) {
    if (!(problem instanceof Refusal)) throw problem;
    sentence.value = problem.message;
  }
  if (!found) return;
  before.value = asItIs();
  marks.value = copyOf(found.not_confirmed);
  chain.value = copyOf(found.chain);
  chosen.value = 0;
  from.value = '';
}

/** A new path with the figures of the chosen one's amplifier and speakers, since a second of a kind is the usual case. */
function add(): void {
  const path = chain.value.paths[chosen.value];
  const amplifier = chain.value.amplifiers.find((amplifier) => amplifier.id === path?.amplifier);
  const load = chain.value.loads.find((load) => load.id === path?.load);
  if (!path || !amplifier || !load) return;
  // A free section is used before another amplifier is bought.
  const [section = null] = freeSections(chain.value, amplifier);
  const own = section ? amplifier : ownAmplifier(amplifier, path);
  if (!section) chain.value.amplifiers.push(own);
  const speakers = { ...copyOf(load), id: newId('speakers') };
  chain.value.loads.push(speakers);
  chain.value.paths.push({
    ...copyOf(path),
    id: newId('path'),
    name: `Path ${chain.value.paths.length + 1}`,
    amplifier: own.id,
    section,
    // What is built into the copied amplifier stays in that.
    through: path.through.filter(
      (processor) =>
        section || !chain.value.processors.some((known) => known.id === processor && known.inside),
    ),
    load: speakers.id,
  });
  chosen.value = chain.value.paths.length - 1;
}

function remove(): void {
  before.value = asItIs();
  const [gone] = chain.value.paths.splice(chosen.value, 1);
  takeOutAmplifier(chain.value, gone?.amplifier);
  takeOut(chain.value.loads, gone?.load);
  chosen.value = Math.max(0, chosen.value - 1);
}

function putBack(): void {
  if (!before.value) return;
  chain.value = before.value.chain;
  marks.value = before.value.not_confirmed;
  before.value = undefined;
}
</script>

<template>
  <div class="bar">
    <p class="quiet m-0 about">A path is one way from the source to its speakers: front, rear or sub.</p>
    <div class="ways">
      <BButton v-if="chain.paths.length < 64" variant="plain" @click="add">Add a path</BButton>
      <BButton v-if="chain.paths.length > 1" variant="plain" @click="remove">
        Remove {{ chain.paths[chosen]?.name || 'this path' }}
      </BButton>
      <BButton v-if="before" variant="plain" @click="putBack">Restore the previous system</BButton>
    </div>
    <div class="layouts" @input.stop @change.stop>
      <SelectField v-model="from" label="Start from a layout or job" :options="layouts" />
      <BButton variant="plain" :disabled="!from" @click="begin">Replace this system</BButton>
      <p v-if="sentence" class="said-clipped m-0" role="alert">{{ sentence }}</p>
    </div>
  </div>
</template>

<style scoped>
.bar {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  align-items: end;
  gap: 0.6rem 1.5rem;
}
.about {
  flex: 1 1 100%;
}
.ways {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem;
}
.layouts {
  display: flex;
  flex-wrap: wrap;
  align-items: end;
  gap: 0.4rem 0.8rem;
}
.layouts > :first-child {
  flex: 1 1 16rem;
}
.layouts :deep(.about) {
  display: none;
}
</style>
