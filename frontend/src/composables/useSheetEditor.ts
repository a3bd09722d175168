/**
 * Edits a job's sheet and saves it as it is typed. What is not saved yet is kept on this device, so that neither a
 * closed browser nor a lost server loses it; a version that moved on elsewhere is shown, never overwritten.
 */
import { useQueryClient } from '@tanstack/vue-query';
import { computed, onScopeDispose, type Ref, ref, watch } from 'vue';
import { api, type Change, type Job, type JobSheet, Refusal, type RunView } from '@/api/client';
import { copyOf } from '@/support/ids';

const PAUSE_MS = 350;
const RETRY_MS = 1500;

type Draft = { base: number; sheet: JobSheet };
export type SaveState = 'saved' | 'saving' | 'waiting' | 'refused' | 'conflict';

export function useSheetEditor(jobId: Ref<string>, newest: Ref<Job | undefined>, by: () => string) {
  const queries = useQueryClient();
  const sheet = ref<JobSheet | null>(null);
  const state = ref<SaveState>('saved');
  const problems = ref<Record<string, string>>({});
  const conflict = ref<{ newest: Job; differs: Change[] } | null>(null);
  const key = computed(() => `rook.draft.${jobId.value}`);
  let base = 0;
  let timer = 0;
  let edits = 0;
  let flying = false;
  /** A draft that an earlier release left behind. The server knows how to read it, so it is saved before it is shown. */
  let old: JobSheet | null = null;

  watch(newest, adopt, { immediate: true });
  onScopeDispose(() => {
    window.clearTimeout(timer);
    if (state.value === 'saving' && timer) void save();
  });

  function adopt(job: Job | undefined): void {
    if (!job || old) return;
    const kept = localStorage.getItem(key.value);
    if (!sheet.value && kept) {
      const draft = JSON.parse(kept) as Draft;
      base = draft.base;
      if (draft.sheet.format === job.sheet.format) sheet.value = draft.sheet;
      else old = draft.sheet;
      void save();
    } else if (!sheet.value || (state.value === 'saved' && job.version > base)) {
      show(job);
    }
  }

  function show(job: Job): void {
    old = null;
    base = job.version;
    sheet.value = copyOf(job.sheet);
  }

  /** Call after changing `sheet`. */
  function edited(): void {
    if (!sheet.value) return;
    edits += 1;
    const draft: Draft = { base, sheet: sheet.value };
    localStorage.setItem(key.value, JSON.stringify(draft));
    if (state.value === 'conflict') return;
    state.value = 'saving';
    window.clearTimeout(timer);
    timer = window.setTimeout(() => void save(), PAUSE_MS);
  }

  async function save(): Promise<void> {
    const sending = old ?? sheet.value;
    if (!sending) return;
    timer = 0;
    // One at a time: a second save would be based on the version that the first one is about to end.
    if (flying) return;
    flying = true;
    const sent = edits;
    state.value = 'saving';
    try {
      const job = await api.saveSheet(jobId.value, {
        base_version: base,
        sheet: copyOf(sending),
        by: by(),
      });
      flying = false;
      saved(job, sent);
    } catch (error) {
      flying = false;
      refused(error);
      if (edits !== sent && (state.value as SaveState) === 'refused') edited();
    }
  }

  function saved(job: Job, sent: number): void {
    base = job.version;
    problems.value = {};
    if (old) show(job);
    queries.setQueryData<RunView>(['run', jobId.value], (view) => (view ? { ...view, job } : view));
    void queries.invalidateQueries({ queryKey: ['run', jobId.value] });
    if (edits === sent) {
      state.value = 'saved';
      localStorage.removeItem(key.value);
    } else {
      edited();
    }
  }

  function refused(error: unknown): void {
    if (!(error instanceof Refusal)) throw error;
    if (error.passing) {
      state.value = 'waiting';
      timer = window.setTimeout(() => void save(), RETRY_MS);
    } else if (error.status === 409 && error.problem.newest) {
      state.value = 'conflict';
      conflict.value = { newest: error.problem.newest, differs: error.problem.differs ?? [] };
    } else {
      state.value = 'refused';
      // What it is refused for can't be shown at its fields; it stays kept until something else is typed.
      if (old && newest.value) show(newest.value);
      const fields = error.problem.errors?.length
        ? error.problem.errors
        : [{ field: error.problem.field ?? '', sentence: error.message }];
      problems.value = Object.fromEntries(
        fields.map((one) => [one.field.replace(/^sheet\./, ''), one.sentence]),
      );
    }
  }

  /** Ends a conflict: saves this page's sheet over the newest, or gives it up for the newest. */
  function settle(keep: 'mine' | 'theirs'): void {
    if (!conflict.value) return;
    const theirs = conflict.value.newest;
    base = theirs.version;
    conflict.value = null;
    if (keep === 'mine') {
      void save();
    } else {
      show(theirs);
      state.value = 'saved';
      localStorage.removeItem(key.value);
      void queries.invalidateQueries({ queryKey: ['run', jobId.value] });
    }
  }

  return { sheet, state, problems, conflict, edited, settle };
}
