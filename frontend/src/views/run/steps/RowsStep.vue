<script setup lang="ts">
/** Several readings one after the other: a supply, a converter's outputs, a filter open and in, the tones of a proof. */
import { computed, nextTick, ref, watch } from 'vue';
import type { Row, RowState, Step } from '@/api/client';
import { formatDoubt, formatValue } from '@/support/quantity';
import { pressed } from '@/support/keys';
import RecordedSpectra from '@/components/RecordedSpectra.vue';
import { SkipDialog } from '../skipDialog';
import FromCapture from '../FromCapture.vue';
import OwnRowForm from './OwnRowForm.vue';
import WantedNow from '../WantedNow.vue';
import type { StepProps } from '.';

const props = defineProps<StepProps>();
const emit = defineEmits<{ volume: [number: number] }>();
const wanted = ref<InstanceType<typeof WantedNow> | null>(null);
const leaving = ref(false);

/** Rows that were added here and that nobody has read yet. */
const added = ref<Row[]>([]);
const isSame = (row: Row, other: Row) =>
  Boolean(row.wants.setting && other.wants.setting) &&
  row.wants.way === other.wants.way &&
  row.wants.tone?.frequency_hz === other.wants.tone?.frequency_hz &&
  // As the server names rows: letters are the same small or large.
  JSON.stringify(row.wants.setting).toLowerCase() === JSON.stringify(other.wants.setting).toLowerCase();
const rows = computed(() => {
  const known = props.desk.step.value?.rows ?? [];
  return [...known, ...added.value.filter((row) => !known.some((other) => isSame(row, other)))];
});
function add(row: Row): void {
  const there = rows.value.findIndex((other) => other.wants.setting && isSame(other, row));
  if (there < 0) added.value.push({ ...row, key: `own-new-${added.value.length + 1}` });
  move(there < 0 ? rows.value.length - 1 : there);
  // The form stands below all rows, the field above them.
  void nextTick(() => wanted.value?.toEntry());
}
/** Each with how it stands; one that is still on its way counts as read. */
const stands = computed(() =>
  rows.value.map((row) => {
    const state = props.desk.state.value?.rows?.find((rowState) => rowState.row === row.key);
    const waiting = props.desk.volumeReadings.value
      .filter((volumereading) => volumereading.waiting && volumereading.row === row.key)
      .at(-1);
    return { row, state, waiting, value: waiting?.value ?? state?.reading?.value ?? null };
  }),
);
/** Whether a reading is there that can settle it. */
const isRead = (index: number) => {
  const stand = stands.value[index];
  return stand?.value != null && (Boolean(stand.waiting) || !stand.state?.otherwise);
};
/** What to go on with: the first that nobody has read, optional ones last. */
function firstOpen(): number {
  const open = rows.value.findIndex((row, index) => !isRead(index) && !row.optional);
  return open < 0
    ? Math.max(
        0,
        rows.value.findIndex((_, index) => !isRead(index)),
      )
    : open;
}
const at = ref(firstOpen());
const row = computed(() => rows.value[at.value]);
watch(
  () => row.value?.key ?? '',
  (now) => props.desk.choose(now),
  { immediate: true },
);

/** Only volts come with the accuracy of a meter. */
const doubtOf = (row: Row, state: RowState | undefined) =>
  /volts$/.test(row.quantity ?? '') ? formatDoubt(state?.reading?.uncertainty) : '';

/** A value that was picked in its words, any other as a figure. */
const said = (row: Row, value: number) =>
  row.choices?.find((choice) => choice.value === value)?.text ?? formatValue(value, row.unit);

function move(index: number): void {
  at.value = Math.max(0, Math.min(rows.value.length - 1, index));
}
/**
 * After a reading the next one is asked for: needed rows before optional ones. A row that missed its target says so;
 * the arrow goes back to it.
 */
function taken(): void {
  const open = (index: number) => index > at.value && !isRead(index);
  const needed = rows.value.findIndex((row, index) => open(index) && !row.optional);
  const next = needed >= 0 ? needed : rows.value.findIndex((_, index) => open(index));
  if (next >= 0) move(next);
}
function leave(note: string): void {
  if (row.value) props.desk.say({ item: row.value.key, answer: 'left', note });
}

/** How the step stands while it is open; a check says it above its readings. */
const unsaid = computed(() => {
  const now = props.desk.state.value;
  return now?.state === 'done' || !now?.reading || now.checked ? '' : now.sentence;
});
const missed = computed(() =>
  ['below', 'above'].includes(stands.value[at.value]?.state?.comparison?.fit ?? ''),
);
/** Nothing is left as it is in a check: it only looks. */
const mayLeave = computed(() => missed.value && !props.desk.state.value?.checked);
/** What the answer to a reading asks for besides comes next. */
watch(
  () => rows.value.find((row, index) => !row.optional && !isRead(index))?.key,
  (now) => {
    if (now && isRead(at.value)) move(firstOpen());
  },
);
/** What kinds of step a recording answers, and which. */
const RECORDED: Partial<Record<Step['kind'], string>> = {
  prove: 'sweep',
  source_sweep: 'sweep',
  factory: 'noise',
  cabin: 'noise',
};
const VERDICTS = { inside: 'clean', unsure: 'clean', below: 'edge', above: 'clipped' } as const;

function handleKey(event: KeyboardEvent): boolean {
  const acts: Record<string, () => void> = {
    ArrowDown: () => move(at.value + 1),
    ArrowUp: () => move(at.value - 1),
    l: () => (leaving.value = !props.desk.state.value?.checked),
  };
  return pressed(event, acts) || (wanted.value?.handleKey(event) ?? false);
}
defineExpose({ handleKey });
</script>

<template>
  <WantedNow
    ref="wanted"
    v-bind="props"
    :row="row"
    :row-state="stands[at]?.state"
    @volume="(number) => emit('volume', number)"
    @taken="taken"
  >
    <template #rows>
      <ol class="rows" aria-label="Readings of this step">
        <li v-for="(shown, index) in stands" :key="shown.row.key">
          <button
            type="button"
            class="row-button"
            :class="{ here: index === at }"
            :aria-current="index === at ? 'true' : undefined"
            @click="move(index)"
          >
            <span class="name">{{ shown.row.name }}</span>
            <span class="digits">
              <template v-if="shown.row.target">{{
                formatValue(shown.row.target.value, shown.row.unit)
              }}</template>
              <span v-else class="quiet">{{
                shown.row.note || (shown.row.optional ? 'optional' : 'to read')
              }}</span>
            </span>
            <span class="digits now">
              <template v-if="shown.value != null">
                {{ said(shown.row, shown.value) }}
                <span class="quiet">{{ shown.waiting ? 'waiting' : doubtOf(shown.row, shown.state) }}</span>
              </template>
              <template v-else>–</template>
            </span>
            <span class="fit">
              <span v-if="shown.state?.otherwise && !shown.waiting" class="said-edge">read again</span>
              <span v-else-if="shown.state?.left" class="said-edge">left: {{ shown.state.left }}</span>
              <span
                v-else-if="shown.state?.comparison && !shown.waiting"
                :class="`said-${VERDICTS[shown.state.comparison.fit]}`"
                >{{
                  { inside: '✓', unsure: '≈', below: '▲ low', above: '▼ high' }[shown.state.comparison.fit]
                }}</span
              >
              <span v-else-if="shown.value != null" class="quiet">✓</span>
              <span v-else-if="shown.row.optional && shown.row.target" class="quiet">optional</span>
            </span>
          </button>
        </li>
      </ol>
    </template>
    <p v-if="unsaid" class="mb-2">{{ unsaid }}</p>
    <FromCapture
      v-if="desk.step.value && RECORDED[desk.step.value.kind]"
      :desk="desk"
      :what="RECORDED[desk.step.value.kind] ?? ''"
    />
    <RecordedSpectra
      v-if="desk.step.value && RECORDED[desk.step.value.kind] === 'noise'"
      :step="desk.key.value"
    />
    <OwnRowForm v-if="desk.step.value?.own_rows" :may="desk.step.value.own_rows" @add="add" />
    <BButton v-if="mayLeave" variant="plain" @click="leaving = true">Leave as is … <kbd>L</kbd></BButton>
  </WantedNow>
  <SkipDialog
    v-if="leaving"
    v-model="leaving"
    :title="row?.name ?? ''"
    :question="`Leave as it is: ${row?.name ?? ''}`"
    @skip="leave"
  />
</template>

<style scoped lang="scss">
@use '@/styles/breakpoints' as at;

.rows {
  list-style: none;
  margin: 0.6rem 0 0;
  padding: 0;
}
.row-button {
  display: grid;
  grid-template-columns: minmax(0, 1.6fr) minmax(0, 1fr) minmax(0, 1.3fr) minmax(0, 1fr);
  gap: 0.2rem 0.8rem;
  align-items: center;
  width: 100%;
  min-height: 44px;
  padding: 0.2rem 0.6rem;
  border: 0;
  border-bottom: 1px solid var(--line);
  background: transparent;
  color: var(--ink);
  text-align: left;
  font-size: 1.1rem;
}
.row-button.here {
  background: var(--clean-wash);
  outline: 2px solid var(--clean);
}
.name {
  font-weight: 650;
}
.now {
  font-weight: 650;
}
@include at.phone {
  .row-button {
    grid-template-columns: minmax(0, 1.4fr) minmax(0, 1fr);
  }
}
</style>
