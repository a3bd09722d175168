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
      // Between two listeners of one press promises are kept already: what the press does comes after this.
      await new Promise((done) => window.setTimeout(done));
      await nextTick();
      const added = fieldsOf(form.value).filter(
        (field) => !before.has(field) && field.getClientRects().length,
      );
      // A box to tick may come along elsewhere; what is to be filled in comes first.
      enter(added.find((field) => field.type !== 'checkbox') ?? added[0]);
    },
    { capture: true },
  );
}
