import type { QueryClient, QueryKey } from '@tanstack/vue-query';

/**
 * Has what is shown under `queryKey` asked for again. A first fetch that is under way may have begun before the change
 * and would be taken for the answer, so it is given up.
 */
export async function askAgain(queries: QueryClient, queryKey: QueryKey): Promise<void> {
  await queries.cancelQueries({ queryKey });
  await queries.invalidateQueries({ queryKey });
}
