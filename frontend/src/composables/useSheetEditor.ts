/**
 * Edits a job's sheet and saves it as it is typed. What is not saved yet is kept on this device, for each tab apart, so
 * that neither a closed browser nor a lost server loses it; a version that moved on elsewhere is shown, never overwritten.
 */
import { useQueryClient } from '@tanstack/vue-query';
import { computed, onScopeDispose, type Ref, ref, toRaw, watch } from 'vue';
import { api, type Change, type Job, type JobSheet, Refusal, type RunView } from '@/api/client';
import { type Draft, dropDraft, findDraft, keepDraft, ownPlace } from '@/support/drafts';
import { isOnlyHere, noteKept } from '@/support/onlyHere';
import { currentPerson } from '@/support/person';
import { copyOf } from '@/support/ids';
import { useSheetChanges } from './useSheetChanges';

const PAUSE_MS = 350;
const RETRY_MS = 1500;

/** Where a sheet stands between the hands and the server. */
type Editing =
  /** What is shown is what the server has. */
  | { is: 'saved' }
  /** Edited; saved after a pause. */
  | { is: 'pausing'; timer: number }
  /** On its way; `edited` when the hands went on meanwhile. */
  | { is: 'saving'; edited: boolean }
  /** The server is away; tried again after a while. */
  | { is: 'waiting'; timer: number }
  /** Something is to be corrected first. */
  | { is: 'refused' }
  /** It was changed somewhere else. */
  | { is: 'conflict'; newest: Job; differs: Change[] };
export type SaveState = Exclude<Editing['is'], 'pausing'>;

export function useSheetEditor(jobId: Ref<string>, newest: Ref<Job | undefined>, by: () => string) {
  const queries = useQueryClient();
  const sheet = ref<JobSheet | null>(null);
  const editing = ref<Editing>({ is: 'saved' });
  const problems = ref<Record<string, string>>({});
  /** How many sheets were put here that this page didn't make. */
  const adopted = ref(0);
  /** Counts every change of the sheet, so that nobody else has to look through all of it to know of one. */
  const changes = ref(0);
  const state = computed<SaveState>(() => (editing.value.is === 'pausing' ? 'saving' : editing.value.is));
  const conflict = computed(() => (editing.value.is === 'conflict' ? editing.value : null));
  const mine = `sheet ${jobId.value}`;
  const kept = computed(() => !isOnlyHere(mine));
  let base = 0;
  let showing = false;
  let left = false;
  let looked = false;
  /** Where what is edited is kept: this tab's own place, or where a closed one left it. */
  let place = ownPlace(jobId.value, currentPerson.value);
  /** A draft that an earlier release left behind. The server knows how to read it, so it is saved before it is shown. */
  let old: JobSheet | null = null;

  watch(newest, adopt, { immediate: true });
  useSheetChanges(sheet, () => {
    changes.value += 1;
    if (!showing) edited();
  });
  onScopeDispose(() => {
    left = true;
    if (editing.value.is === 'pausing') void save();
    // What the run comes to was not asked for while nobody looked at it.
    else void queries.invalidateQueries({ queryKey: ['run', jobId.value] });
  });

  function go(to: Editing): void {
    if ('timer' in editing.value) window.clearTimeout(editing.value.timer);
    editing.value = to;
  }
  const after = (pause: number) => window.setTimeout(() => void save(), pause);

  function put(shown: JobSheet): void {
    showing = true;
    sheet.value = shown;
    adopted.value += 1;
    showing = false;
  }

  async function adopt(job: Job | undefined): Promise<void> {
    if (!job || old) return;
    if (!looked) {
      looked = true;
      if (!(await takeUp())) show(newest.value ?? job);
    } else if (sheet.value && editing.value.is === 'saved' && job.version > base) {
      show(job);
    }
  }

  /** Goes on with an edit that this tab, or one that is closed, left unsaved; false where there is none. */
  async function takeUp(): Promise<boolean> {
    const draft = await findDraft(jobId.value, currentPerson.value);
    // Whoever types meanwhile has a draft of their own; this one stays where it is.
    if (!draft || editing.value.is !== 'saved') return false;
    place = Promise.resolve(draft.place);
    base = draft.base;
    if (draft.sheet.format === newest.value?.sheet.format) put(draft.sheet);
    else old = draft.sheet;
    void save();
    return true;
  }

  function show(job: Job): void {
    old = null;
    base = job.version;
    put(copyOf(job.sheet));
  }

  function edited(): void {
    if (!sheet.value) return;
    // Through what Vue wraps around it a large sheet takes ten times as long to be written down.
    const draft: Draft = { base, sheet: toRaw(sheet.value) };
    // A draft counts as kept once the device’s storage has confirmed it.
    void keepDraft(place, draft).then((kept) => noteKept(mine, kept || editing.value.is === 'saved'));
    if (editing.value.is === 'saving') editing.value.edited = true;
    else if (editing.value.is !== 'conflict') go({ is: 'pausing', timer: after(PAUSE_MS) });
  }

  async function save(): Promise<void> {
    const shown = old ?? sheet.value;
    if (!shown) return;
    const sent = copyOf(shown);
    go({ is: 'saving', edited: false });
    try {
      const job = await api.saveSheet(jobId.value, { base_version: base, sheet: sent, by: by() });
      saved(job, sent, editing.value.is === 'saving' && editing.value.edited);
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      refused(error, editing.value.is === 'saving' && editing.value.edited);
    }
  }

  function saved(job: Job, sent: JobSheet, again: boolean): void {
    base = job.version;
    problems.value = {};
    // One of an earlier format is shown as the server brought it up, marks included.
    if (old) show(job);
    else takeInMarks(sent, job.sheet);
    queries.setQueryData<RunView>(['run', jobId.value], (view) => (view ? { ...view, job } : view));
    // The plan of what is edited is on the screen already; the run is worked out when a screen shows it again.
    void queries.invalidateQueries({ queryKey: ['run', jobId.value], refetchType: left ? 'active' : 'none' });
    if (again) return go({ is: 'pausing', timer: after(PAUSE_MS) });
    settled();
  }

  /** Takes in what the server has marked as not confirmed, since a part is new; the rest is as it was sent. */
  function takeInMarks(sent: JobSheet, saved: JobSheet): void {
    const known = new Set(sent.not_confirmed.map((unconfirmed) => unconfirmed.place));
    const added = saved.not_confirmed.filter((unconfirmed) => !known.has(unconfirmed.place));
    if (!sheet.value || !added.length) return;
    showing = true;
    sheet.value.not_confirmed.push(...added);
    showing = false;
  }

  /** Nothing of this tab's is unsaved any more; what a closed one left comes next. */
  function settled(): void {
    go({ is: 'saved' });
    noteKept(mine, true);
    const done = dropDraft(place);
    place = ownPlace(jobId.value, currentPerson.value);
    void done.then(() => left || takeUp());
  }

  function refused(error: Refusal, again: boolean): void {
    if (error.passing) return go({ is: 'waiting', timer: after(RETRY_MS) });
    if (error.status === 409 && error.problem.newest) {
      return go({ is: 'conflict', newest: error.problem.newest, differs: error.problem.differs ?? [] });
    }
    go(again ? { is: 'pausing', timer: after(PAUSE_MS) } : { is: 'refused' });
    // What it is refused for can't be shown at its fields; it stays kept until something else is typed.
    if (old && newest.value) show(newest.value);
    const fields = error.problem.errors?.length
      ? error.problem.errors
      : [{ field: error.problem.field ?? '', sentence: error.message }];
    problems.value = Object.fromEntries(
      fields.map((field) => [field.field.replace(/^sheet\./, ''), field.sentence]),
    );
  }

  /** Ends a conflict: saves this page's sheet over the newest, or gives it up for the newest. */
  function settle(keep: 'mine' | 'theirs'): void {
    if (editing.value.is !== 'conflict') return;
    const theirs = editing.value.newest;
    base = theirs.version;
    if (keep === 'mine') return void save();
    show(theirs);
    settled();
    void queries.invalidateQueries({ queryKey: ['run', jobId.value] });
  }

  return { sheet, adopted, changes, state, kept, problems, conflict, settle };
}
