/** Sends the first page's requests before the page itself is loaded. */
import type { QueryClient } from '@tanstack/vue-query';
import { healthAnswer } from './composables/useConnection';
import { instrumentsAnswer } from './composables/useInstruments';
import { runAnswer } from './composables/useJob';
import { newPartsAnswer } from './composables/useNewParts';
import { firstJobs } from './views/jobs/useJobList';

export function askForAnswers(queries: QueryClient, { pathname, search }: Location): void {
  const ask = (answer: Parameters<typeof queries.prefetchQuery>[0]) =>
    void queries.prefetchQuery({ ...answer, retry: false });
  ask(healthAnswer);
  const job = /^\/jobs\/([^/]+)/.exec(pathname)?.[1];
  if (job) ask(runAnswer(job));
  if (pathname.endsWith('/system')) ask(newPartsAnswer);
  if (pathname !== '/') return;
  ask(instrumentsAnswer);
  if (!search) void queries.prefetchInfiniteQuery(firstJobs);
}
