import type { InvalidateQueryFilters, QueryClient } from '@tanstack/vue-query';

/**
 * Has what is shown of `filters` asked for again. A first fetch that is under way may have begun before the change
 * and would be taken for the answer, so it is given up.
 */
export async function askAgain(queries: QueryClient, filters: InvalidateQueryFilters): Promise<void> {
  await queries.cancelQueries(filters);
  await queries.invalidateQueries(filters);
}
