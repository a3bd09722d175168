/** Trying a change out: a copy of the sheet whose plan is shown beside the plan that stands, then kept or dropped. */
import { useQueryClient } from '@tanstack/vue-query';
import { computed, type Ref, ref } from 'vue';
import { api, type JobSheet, type Plan, Refusal, type RunView } from '@/api/client';
import { usePreview } from '@/composables/usePreview';
import { usePreferences } from '@/composables/usePreferences';
import { copyOf } from '@/support/ids';

export function useWhatIf(id: Ref<string>, view: Ref<RunView | undefined>) {
  const queries = useQueryClient();
  const preferences = usePreferences();
  const tried = ref<JobSheet | null>(null);
  const unkept = ref('');
  const standing = computed<Plan | undefined>(() => view.value?.run.plan);
  let base = 0;
  let keeping = false;
  // What others save meanwhile doesn't take the place of what is tried out.
  const preview = usePreview(
    id,
    tried,
    computed(() => (tried.value ? undefined : standing.value)),
  );
  const problem = computed(() => unkept.value || (tried.value ? preview.refused.value : ''));
  /** What is shown: the plan of what is tried out, else the one that stands. */
  const plan = computed(() => (tried.value ? preview.plan.value : standing.value));
  const before = computed(() => (tried.value ? standing.value : undefined));

  function begin(): void {
    if (!view.value) return;
    base = view.value.job.version;
    unkept.value = '';
    tried.value = copyOf(view.value.job.sheet);
  }

  function drop(): void {
    tried.value = null;
    unkept.value = '';
  }

  async function keep(): Promise<void> {
    if (!tried.value || keeping) return;
    keeping = true;
    try {
      await api.saveSheet(id.value, {
        base_version: base,
        sheet: copyOf(tried.value),
        by: preferences.value.name,
      });
      await queries.invalidateQueries({ queryKey: ['run', id.value] });
      drop();
    } catch (refusal) {
      if (!(refusal instanceof Refusal)) throw refusal;
      // It stays on the screen, so that it can be corrected or tried again.
      unkept.value =
        refusal.status === 409
          ? 'The system was changed elsewhere. Discard this and start again from the new version.'
          : refusal.message;
    } finally {
      keeping = false;
    }
  }

  return { tried, plan, before, problem, begin, keep, drop };
}
