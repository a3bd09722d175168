/** A page whose script could not be loaded, until some page opens: the press that asked for it must not do nothing. */
import { ref } from 'vue';
import { type RouteLocationNormalized, useRouter } from 'vue-router';

export function useFailedPage() {
  const router = useRouter();
  const failed = ref<RouteLocationNormalized | null>(null);
  router.onError((_, to) => (failed.value = to));
  router.afterEach(() => (failed.value = null));
  const again = () => failed.value && void router.push(failed.value.fullPath).catch(() => undefined);
  return { failed, again };
}
