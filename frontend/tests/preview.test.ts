import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { effectScope, nextTick, ref } from 'vue';
import { api, type JobSheet, type Plan, Refusal } from '@/api/client';
import { usePreview } from '@/composables/usePreview';

const sheetOf = (note: string) => ({ note }) as unknown as JobSheet;
const planOf = (note: string) => ({ note }) as unknown as Plan;

beforeEach(() => {
  vi.useFakeTimers();
});
afterEach(() => {
  vi.useRealTimers();
  vi.restoreAllMocks();
});

const ANSWERS_AFTER_MS = 100;
/** A server that plans what it is asked for. */
const answering = () =>
  vi.spyOn(api, 'preview').mockImplementation(async (_, sheet) => {
    await new Promise((then) => setTimeout(then, ANSWERS_AFTER_MS));
    return planOf(sheet.note);
  });
const answered = () => vi.advanceTimersByTimeAsync(ANSWERS_AFTER_MS);

/** A sheet that is edited, in a scope that can be left. */
function previewed(note: string) {
  const sheet = ref<JobSheet | null>(null);
  const saved = ref<Plan | undefined>(planOf('saved'));
  const scope = effectScope();
  const preview = scope.run(() => usePreview(ref('j'), sheet, saved));
  if (!preview) throw new Error('The scope is left already');
  sheet.value = sheetOf(note);
  return { ...preview, sheet, saved, scope };
}

it('is behind from a change until its own plan is there', async () => {
  answering();
  const { plan, behind, sheet } = previewed('one');
  expect(plan.value).toEqual(planOf('saved'));
  await answered();
  expect([plan.value, behind.value]).toEqual([planOf('one'), false]);
  sheet.value = sheetOf('two');
  await nextTick();
  expect([plan.value, behind.value]).toEqual([planOf('one'), true]);
  await answered();
  expect([plan.value, behind.value]).toEqual([planOf('two'), false]);
});

it('asks about what is edited when a saved plan comes, which may be older', async () => {
  const asked = answering();
  const { plan, saved } = previewed('mine');
  await answered();
  saved.value = planOf('before mine');
  await nextTick();
  expect(plan.value).toEqual(planOf('mine'));
  await answered();
  expect(plan.value).toEqual(planOf('mine'));
  expect(asked).toHaveBeenCalledTimes(2);
});

it('asks again until the server is back', async () => {
  const away = new Refusal(503, { title: 'Away', status: 503 });
  const asked = vi.spyOn(api, 'preview').mockRejectedValue(away);
  const { plan, behind } = previewed('mine');
  await vi.advanceTimersByTimeAsync(3100);
  expect(asked).toHaveBeenCalledTimes(3);
  expect([plan.value, behind.value]).toEqual([planOf('saved'), true]);
  answering();
  await vi.advanceTimersByTimeAsync(1600);
  expect([plan.value, behind.value]).toEqual([planOf('mine'), false]);
});

it('asks no more once it is left', async () => {
  const asked = vi.spyOn(api, 'preview').mockRejectedValue(new Refusal(503, { status: 503 }));
  const { scope } = previewed('mine');
  await vi.advanceTimersByTimeAsync(100);
  expect(asked).toHaveBeenCalledTimes(1);
  scope.stop();
  await vi.advanceTimersByTimeAsync(5000);
  expect(asked).toHaveBeenCalledTimes(1);
});
