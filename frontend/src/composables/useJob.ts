/** One job as every screen of it sees it: its sheet, plan, run and records, kept fresh by the live channel. */
import { useQuery } from '@tanstack/vue-query';
import { computed, inject, type InjectionKey, provide, type Ref, ref } from 'vue';
import { api, type Job, type MeterEvent, Refusal, type RunView } from '@/api/client';
import { useLive } from './useLive';

export type OpenJob = {
  id: Ref<string>;
  view: Ref<RunView | undefined>;
  job: Ref<Job | undefined>;
  error: Ref<Error | null>;
  /** The step whose target the live meter is held against; null while nobody wants the meter. */
  meterStep: Ref<string | null>;
  meter: Ref<MeterEvent | null>;
  /** Whether this page is saving the sheet. */
  saving: Ref<boolean>;
};

const KEY: InjectionKey<OpenJob> = Symbol('job');
const RETRY_MS = 1500;

/** The answer that every screen of a job lives on. */
export const runAnswer = (id: string) => ({ queryKey: ['run', id], queryFn: () => api.run(id) });

export function provideJob(id: Ref<string>): OpenJob {
  const { data, error } = useQuery({
    queryKey: computed(() => runAnswer(id.value).queryKey),
    queryFn: () => runAnswer(id.value).queryFn(),
    retry: (_, problem) => problem instanceof Refusal && problem.passing,
    retryDelay: RETRY_MS,
  });
  const meterStep = ref<string | null>(null);
  const saving = ref(false);
  const { meter } = useLive(id, meterStep, saving);
  const open = { id, view: data, job: computed(() => data.value?.job), error, meterStep, meter, saving };
  provide(KEY, open);
  return open;
}

/** The id of the job around, where there is one. */
export const useJobId = () => inject(KEY, undefined)?.id;

export function useJob(): OpenJob {
  const open = inject(KEY);
  if (!open) throw new Error('useJob needs a JobFrame around it');
  return open;
}
