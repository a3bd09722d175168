/** The plan of a sheet while it is being edited: asked for at once, without waiting for the save. */
import { type Ref, ref, watch } from 'vue';
import { api, type JobSheet, type Plan, Refusal } from '@/api/client';

const PAUSE_MS = 40;

export function usePreview(job: Ref<string>, sheet: Ref<JobSheet | null>, saved: Ref<Plan | undefined>) {
  const plan = ref<Plan>();
  let timer = 0;
  let asked = 0;

  watch(saved, (now) => (plan.value = now), { immediate: true });
  watch(
    sheet,
    () => {
      window.clearTimeout(timer);
      timer = window.setTimeout(() => void ask(), PAUSE_MS);
    },
    { deep: true },
  );

  async function ask(): Promise<void> {
    if (!sheet.value) return;
    const mine = ++asked;
    try {
      const found = await api.preview(job.value, JSON.parse(JSON.stringify(sheet.value)) as JobSheet);
      if (mine === asked) plan.value = found;
    } catch (problem) {
      // What can't be planned is told by the save, at its field.
      if (!(problem instanceof Refusal)) throw problem;
    }
  }

  return plan;
}
