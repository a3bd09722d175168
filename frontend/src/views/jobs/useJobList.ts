/** The jobs as they are searched and sorted out, page by page; which kind is shown stands in the address. */
import { useInfiniteQuery, useQueryClient } from '@tanstack/vue-query';
import { refDebounced } from '@vueuse/core';
import { computed, ref, watch } from 'vue';
import { onBeforeRouteLeave, useRoute, useRouter } from 'vue-router';
import { api, type JobsWanted } from '@/api/client';

export type Shown = 'all' | 'redo' | 'open' | 'finished' | 'practice' | 'archive' | 'bin';

const WANTED: Record<Shown, JobsWanted> = {
  all: { practice: false },
  redo: { stands: 'redo', practice: false },
  open: { stands: 'open', practice: false },
  finished: { stands: 'finished', practice: false },
  practice: { practice: true },
  archive: { shelf: 'archive' },
  bin: { shelf: 'bin' },
};
const TYPING_MS = 200;

const isShown = (text: unknown): text is Shown => typeof text === 'string' && text in WANTED;

/** Asks for a page of the list. */
const asked = (shown: Shown, search: string) => ({
  queryKey: ['jobs', search, shown],
  queryFn: ({ pageParam }: { pageParam: string }) =>
    api.jobs({ ...WANTED[shown], search: search.slice(0, 200), ...(pageParam ? { after: pageParam } : {}) }),
  initialPageParam: '',
  getNextPageParam: (page: Awaited<ReturnType<typeof api.jobs>>) => page.after ?? undefined,
});
/** The list as it opens. */
export const firstJobs = asked('all', '');

export function useJobList() {
  const route = useRoute();
  const router = useRouter();
  const queries = useQueryClient();
  // With the page's entry in the history, not in its address: it may be a customer's name.
  const search = ref(String((window.history.state as { search?: string } | null)?.search ?? ''));
  const shown = ref<Shown>(isShown(route.query.show) ? route.query.show : 'all');
  const looked = refDebounced(search, TYPING_MS);
  function noteSearch(): void {
    const entry = window.history.state as { current?: string } | null;
    // On the way back the entry is another page's already.
    if (entry?.current === route.fullPath)
      window.history.replaceState({ ...entry, search: search.value }, '');
  }
  onBeforeRouteLeave(noteSearch);
  watch([looked, shown], () => {
    noteSearch();
    void router.replace({ query: shown.value === 'all' ? {} : { show: shown.value } });
  });

  const { data, error, fetchNextPage, hasNextPage, isFetchingNextPage } = useInfiniteQuery({
    ...firstJobs,
    queryKey: computed(() => asked(shown.value, looked.value.trim()).queryKey),
    queryFn: (page) => asked(shown.value, looked.value.trim()).queryFn(page),
    refetchOnMount: 'always',
    placeholderData: (before) => before,
  });
  const jobs = computed(() => data.value?.pages.flatMap((page) => page.jobs));
  const total = computed(() => data.value?.pages[0]?.total ?? 0);
  const unread = computed(() => data.value?.pages[0]?.unread ?? 0);
  const again = () => queries.invalidateQueries({ queryKey: ['jobs'] });

  return {
    search,
    shown,
    jobs,
    total,
    unread,
    error,
    more: fetchNextPage,
    hasMore: hasNextPage,
    fetching: isFetchingNextPage,
    again,
  };
}
