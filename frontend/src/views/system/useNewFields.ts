/** A field that comes with a press of a button has the focus: what was added is what comes next. */
import { useEventListener } from '@vueuse/core';
import { nextTick, type Ref } from 'vue';
import { enter, fieldsOf } from './fields';

export function useNewFields(form: Readonly<Ref<HTMLElement | null>>): void {
  useEventListener(
    form,
    'click',
    async (event: Event) => {
      const pressed = event.target instanceof Element ? event.target.closest('button') : null;
      if (!pressed || !form.value) return;
      const before = new Set(fieldsOf(form.value));
      await nextTick();
      await nextTick();
      const added = fieldsOf(form.value).find((one) => !before.has(one) && one.getClientRects().length);
      if (added && form.value.isConnected) enter(added);
    },
    { capture: true },
  );
}
