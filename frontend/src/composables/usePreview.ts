/** The plan of a sheet while it is being edited: asked for at once, without waiting for the save. */
import { type Ref, shallowRef, watch } from 'vue';
import { api, type JobSheet, type Plan, Refusal } from '@/api/client';
import { copyOf } from '@/support/ids';

export function usePreview(job: Ref<string>, sheet: Ref<JobSheet | null>, saved: Ref<Plan | undefined>) {
  const plan = shallowRef<Plan>();
  let flying = false;
  let changed = false;

  watch(saved, (now) => (plan.value = now), { immediate: true });
  watch(sheet, () => void ask(), { deep: true });

  /** One question at a time; what changes meanwhile is asked about as soon as the answer is there. */
  async function ask(): Promise<void> {
    changed = true;
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
      if (!changed) plan.value = found;
    } catch (problem) {
      // What can't be planned is told by the save, at its field; so is a server that is away.
      if (!(problem instanceof Refusal)) throw problem;
    }
  }

  return plan;
}
