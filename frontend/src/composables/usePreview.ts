/** The plan of a sheet while it is being edited: asked for at once, without waiting for the save. */
import { onScopeDispose, type Ref, ref, shallowRef, watch } from 'vue';
import { api, type JobSheet, type Plan, Refusal } from '@/api/client';
import { copyOf } from '@/support/ids';

const RETRY_MS = 1500;

/** `changes` counts the sheet's, where somebody counts them; without it all of the sheet is watched. */
export function usePreview(
  job: Ref<string>,
  sheet: Ref<JobSheet | null>,
  saved: Ref<Plan | undefined>,
  changes?: Ref<number>,
) {
  const plan = shallowRef<Plan>();
  /** Why what is shown isn't the plan of the sheet as it is now; empty when it is. */
  const refused = ref('');
  /** Whether the plan is that of the sheet before its last change. */
  const behind = ref(false);
  let flying = false;
  let changed = false;
  let left = false;
  onScopeDispose(() => (left = true));

  // A saved plan may be older than what the hands have: once a sheet is edited it only says that there is news to ask for.
  watch(
    saved,
    (now) => {
      if (now && sheet.value && plan.value) void ask();
      else if (now) plan.value = now;
    },
    { immediate: true },
  );
  watch(changes ?? sheet, () => void ask(), { deep: !changes });

  /** One question at a time; what changes meanwhile is asked about as soon as the answer is there. */
  async function ask(): Promise<void> {
    changed = true;
    behind.value = true;
    if (flying) return;
    flying = true;
    try {
      while (changed && sheet.value) {
        changed = false;
        await answer(sheet.value);
      }
    } finally {
      flying = false;
    }
  }

  async function answer(asked: JobSheet): Promise<void> {
    try {
      const found = await api.preview(job.value, copyOf(asked));
      if (changed) return;
      plan.value = found;
      refused.value = '';
      behind.value = false;
    } catch (problem) {
      // Where it is saved as it is typed, the save tells it at its field; so it does of a server that is away.
      if (!(problem instanceof Refusal)) throw problem;
      refused.value = problem.message;
      if (problem.passing && !left) await again();
    }
  }

  async function again(): Promise<void> {
    await new Promise((then) => setTimeout(then, RETRY_MS));
    changed = !left;
  }

  return { plan, refused, behind };
}
