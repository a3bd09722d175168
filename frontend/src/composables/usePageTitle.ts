/** What the browser's tab is called: where one is, and in which job. */
import { useTitle } from '@vueuse/core';
import { computed, onScopeDispose, ref, watchEffect } from 'vue';
import { useRoute } from 'vue-router';

const within = ref<string[]>([]);

/** For the app's frame: follows the route, and what a job says of itself. */
export function usePageTitle(): void {
  const route = useRoute();
  const place = computed(() => (within.value.length ? within.value : [route.meta.title]));
  useTitle(() => [...place.value, 'Upper Rook'].filter(Boolean).join(' · '));
}

/** For a job's frame: its place and its vehicle. */
export function useJobTitle(parts: () => (string | undefined)[]): void {
  watchEffect(() => (within.value = parts().filter((part) => part !== undefined && part !== '') as string[]));
  onScopeDispose(() => (within.value = []));
}
