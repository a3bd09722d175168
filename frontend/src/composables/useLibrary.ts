/** A library of the shop as its page lists it: searched, of one kind or of any, in the bin or out of it, page by page. */
import { useInfiniteQuery } from '@tanstack/vue-query';
import { refDebounced } from '@vueuse/core';
import { computed, ref } from 'vue';

const TYPING_MS = 200;
const LONGEST_SEARCH = 200;

type Asked = { search: string; in_bin?: boolean; after?: string };
type Page = { total: number; after?: string | null };

/** `also` gives what else is asked for, beside the words and the bin. */
export function useLibrary<Also extends object, One extends Page>(
  name: string,
  also: () => Also,
  ask: (wanted: Asked & Also) => Promise<One>,
) {
  const search = ref('');
  const looked = refDebounced(search, TYPING_MS);
  const inBin = ref(false);
  const { data, error, fetchNextPage, hasNextPage } = useInfiniteQuery({
    queryKey: computed(() => [name, looked.value.trim(), JSON.stringify(also()), inBin.value]),
    queryFn: ({ pageParam }) =>
      ask({
        search: looked.value.trim().slice(0, LONGEST_SEARCH),
        ...also(),
        ...(inBin.value ? { in_bin: true } : {}),
        ...(pageParam ? { after: pageParam } : {}),
      }),
    initialPageParam: '',
    getNextPageParam: (page: One) => page.after ?? undefined,
    refetchOnMount: 'always',
    placeholderData: (before) => before,
  });
  const pages = computed(() => data.value?.pages);
  const total = computed(() => pages.value?.[0]?.total ?? 0);
  return { search, inBin, pages, total, error, more: () => void fetchNextPage(), hasMore: hasNextPage };
}
