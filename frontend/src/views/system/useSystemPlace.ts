/** Where somebody is on the System screen: path, part and field stand in the address, for the way back and for links. */
import { useEventListener } from '@vueuse/core';
import { computed, nextTick, type Ref, ref, watch } from 'vue';
import { type LocationQuery, useRoute, useRouter } from 'vue-router';
import type { Chain } from '@/api/client';
import { firstFocusable } from '@/support/focus';
import { isPart, type Part, partAt, pathsAt } from '@/support/refusals';
import { enter, fieldsOf, nameOf } from './fields';

const queried = (query: LocationQuery, key: string) => String(query[key] ?? '');
/** What a field is called in the address: its place on the sheet, or the words beside it. */
const keyOf = (field: HTMLElement) =>
  field.closest<HTMLElement>('[data-place]')?.dataset.place ?? nameOf(field);

export function useSystemPlace(chain: Ref<Chain | undefined>, form: Readonly<Ref<HTMLElement | null>>) {
  const route = useRoute();
  const router = useRouter();
  const number = ref(0);
  const part = ref<Part>('source');
  const chosen = computed({
    get: () => Math.min(number.value, Math.max(0, (chain.value?.paths.length ?? 1) - 1)),
    set: (value: number) => (number.value = value),
  });

  /** Goes where the address says; gives the field that it names. */
  function read(now: Chain): string {
    const { query } = route;
    const field = queried(query, 'field');
    const holds = field ? pathsAt(now, field) : [];
    const path = now.paths.findIndex((path) => path.id === queried(query, 'path'));
    if (path >= 0) number.value = path;
    else if (holds.length && !holds.includes(chosen.value)) number.value = holds[0] ?? 0;
    const wanted = partAt(field) ?? queried(query, 'part');
    if (isPart(wanted)) part.value = wanted;
    return field;
  }
  async function land(field: string): Promise<void> {
    await nextTick();
    await nextTick();
    const fields = form.value ? fieldsOf(form.value) : [];
    const found = fields.find((candidate) => keyOf(candidate) === field) ?? buttonAt(field);
    if (!found) return;
    found.scrollIntoView({ block: 'center' });
    enter(found);
  }

  /** Where there is no field yet there is a button that adds one. */
  const buttonAt = (place: string) =>
    firstFocusable(form.value?.querySelector(`[data-place="${CSS.escape(place)}"]`));

  let here = '';
  watch(
    [chain, () => route.query],
    ([now, query]) => {
      const address = JSON.stringify(query);
      if (!now || address === here || route.name !== 'system') return;
      here = address;
      const field = read(now);
      if (field) void land(field);
    },
    { immediate: true, flush: 'post' },
  );

  function write(field?: string): void {
    const path = chain.value?.paths[chosen.value]?.id;
    if (!path || route.name !== 'system') return;
    const query = { path, part: part.value, ...(field ? { field } : {}) };
    here = JSON.stringify(query);
    void router.replace({ query });
  }
  watch([chosen, part], () => write());
  useEventListener(form, 'focusin', (event: FocusEvent) => {
    const field = event.target;
    if (field instanceof HTMLElement && field.matches('input, select, textarea')) write(keyOf(field));
  });

  return { chosen, part };
}
