<script setup lang="ts">
/** The vehicle back again: a visit begins, and what stood before stands beside what stands now. */
import { useQuery } from '@tanstack/vue-query';
import { computed, ref, watch } from 'vue';
import { useRouter } from 'vue-router';
import { api, type RunView } from '@/api/client';
import SelectField from '@/components/SelectField.vue';
import TextField from '@/components/TextField.vue';
import { useDoor } from '@/composables/useDoor';
import { useOutbox } from '@/composables/useOutbox';
import { usePreferences } from '@/composables/usePreferences';
import { DEVICE } from '@/support/device';
import { formatValue } from '@/support/quantity';
import { dateInWords } from '@/support/words';

const props = defineProps<{ job: string; view: RunView }>();
const preferences = usePreferences();
const outbox = useOutbox(() => props.job);
const router = useRouter();
// Asked anew whenever the run changed.
const { data } = useQuery({
  queryKey: computed(() => ['chapters', props.job, props.view]),
  queryFn: () => api.chapters(props.job),
  placeholderData: (former) => former,
});
const chapters = computed(() => data.value ?? []);
const titleOf = (chapter: { number: number }) => (chapter.number ? `Visit ${chapter.number}` : 'First work');
const nameOf = (chapter: { number: number; day?: string | null }) =>
  `${titleOf(chapter)}${chapter.day ? `, ${dateInWords(chapter.day)}` : ''}`;
const options = computed(() =>
  chapters.value.map((chapter) => ({ value: String(chapter.number), text: nameOf(chapter) })),
);
const first = ref<string>();
const second = ref<string>();
const left = computed(
  () => chapters.value.find((chapter) => String(chapter.number) === first.value) ?? chapters.value.at(-2),
);
const right = computed(
  () => chapters.value.find((chapter) => String(chapter.number) === second.value) ?? chapters.value.at(-1),
);
type Line = { name: string; was: string; now: string };
const volts = (reading?: { voltage_v?: number | null; outdated: boolean }) =>
  reading?.voltage_v == null
    ? 'not measured'
    : `${formatValue(reading.voltage_v, 'V')}${reading.outdated ? ', to redo' : ''}`;
const lines = computed<Line[]>(() => {
  const [was, now] = [left.value, right.value];
  if (!was || !now) return [];
  const numbers = now.numbers.map((number) => ({
    name: `Number never to pass${now.numbers.length > 1 ? `, ${number.source}` : ''}`,
    was: String(was.numbers.find((other) => other.source === number.source)?.volume ?? 'not known'),
    now: String(number.volume ?? 'not known'),
  }));
  const names = [...new Set([...was.outputs, ...now.outputs].map((output) => output.name))];
  const find = (of: typeof was, name: string) => of.outputs.find((output) => output.name === name);
  return [
    ...numbers,
    ...names.map((name) => ({ name, was: volts(find(was, name)), now: volts(find(now, name)) })),
  ];
});

const { may } = useDoor();
const asked = ref(false);
const note = ref('');
/** The mark that begins the visit: the check is there once the server has it. */
const begun = ref<string>();
const waits = computed(() =>
  outbox.waiting.value.some((entry) => entry.kind === 'mark' && entry.body.id === begun.value),
);
watch(
  () => begun.value && props.view.marks.some((mark) => mark.id === begun.value),
  (arrived) => {
    if (arrived) void router.push({ name: 'run', params: { id: props.job, step: 'check' } });
  },
);
function begin(): void {
  begun.value = crypto.randomUUID();
  const body = {
    id: begun.value,
    step: 'check',
    item: 'back',
    answer: 'done' as const,
    skipped: false,
    note: note.value,
    sheet_version: props.view.job.version,
    taken_at: new Date().toISOString(),
    by: preferences.value.name,
    device: DEVICE,
  };
  void outbox.put({ kind: 'mark', body }, { vehicle: props.view.job.sheet.vehicle, step: 'Visit' });
  note.value = '';
  asked.value = false;
}
</script>

<template>
  <section v-if="view.taken" class="sheet" :class="{ 'no-print': chapters.length < 2 }" aria-label="Visits">
    <h3 class="h5">Visits</h3>
    <template v-if="left && right && chapters.length > 1">
      <p v-for="chapter in chapters.slice(1)" :key="chapter.number" class="mb-1">
        <strong>{{ nameOf(chapter) }}</strong><template v-if="chapter.by"> by {{ chapter.by }}</template
        ><template v-if="chapter.note">: {{ chapter.note }}</template
        >. {{ chapter.check }}
      </p>
      <div v-if="chapters.length > 2" class="d-flex flex-wrap gap-3 my-2 no-print">
        <SelectField
          :model-value="first ?? String(left.number)"
          label="Compare"
          :options="options"
          @update:model-value="(value) => (first = value)"
        />
        <SelectField
          :model-value="second ?? String(right.number)"
          label="With"
          :options="options"
          @update:model-value="(value) => (second = value)"
        />
      </div>
      <div class="table-responsive" tabindex="0" role="region" aria-label="Two visits side by side">
        <table class="table digits align-middle">
          <caption class="visually-hidden">
            Two visits side by side
          </caption>
          <thead>
            <tr>
              <th scope="col">Figure</th>
              <th scope="col" class="text-end">{{ titleOf(left) }}</th>
              <th scope="col" class="text-end">{{ titleOf(right) }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="line in lines" :key="line.name">
              <th scope="row">{{ line.name }}</th>
              <td class="text-end text-nowrap">{{ line.was }}</td>
              <td class="text-end text-nowrap" :class="{ 'fw-bold': line.now !== line.was }">
                {{ line.now }}
              </td>
            </tr>
          </tbody>
        </table>
      </div>
    </template>
    <p v-if="waits" class="mb-0 fw-bold no-print" role="status">
      The visit begins once the server has it; then the check opens here.
    </p>
    <form v-else-if="asked" class="no-print" @submit.prevent="begin">
      <TextField
        v-model="note"
        label="Complaint or reason"
        hint="For example: quieter than before, or a new phone. It may stay empty."
      />
      <div class="d-flex gap-2 mt-2">
        <BButton type="submit" variant="primary">Begin the visit</BButton>
        <BButton variant="plain" @click="asked = false">Leave it</BButton>
      </div>
    </form>
    <p v-else-if="may('work')" class="mb-0 no-print">
      <BButton variant="plain" @click="asked = true">The vehicle is back …</BButton>
      <span class="quiet ms-2">Four readings at most check whether anything moved.</span>
    </p>
    <p v-else-if="chapters.length < 2" class="quiet mb-0 no-print">It has not come back yet.</p>
  </section>
</template>
