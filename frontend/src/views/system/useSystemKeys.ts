/** The System screen by keys: from path to path in the same field, from part to part, on to the plan. */
import { useEventListener } from '@vueuse/core';
import { nextTick, type Ref } from 'vue';
import { firstFocusable } from '@/support/focus';
import { isDialogOpen } from '@/support/keys';
import { enter, fieldsOf, nameOf } from './fields';

type Acts = {
  /** Both give false where there is no such path or part. */
  path: (number: number) => boolean;
  part: (number: number) => boolean;
  plan: () => void;
};

export function useSystemKeys(form: Readonly<Ref<HTMLElement | null>>, acts: Acts): void {
  /** Changes the path and stays in the field of that name, the first of it or the same of several. */
  async function toPath(number: number): Promise<void> {
    const fields = form.value ? fieldsOf(form.value) : [];
    const own = fields.find((field) => field === document.activeElement);
    const name = own && nameOf(own);
    const place = own ? fields.filter((field) => nameOf(field) === name).indexOf(own) : -1;
    if (!acts.path(number) || !own || !form.value) return;
    await nextTick();
    const now = fieldsOf(form.value);
    const alike = now.filter((field) => nameOf(field) === name);
    enter(alike[place] ?? alike[0] ?? now[0]);
  }

  async function toPart(number: number): Promise<void> {
    if (!acts.part(number)) return;
    await nextTick();
    form.value?.scrollIntoView({ block: 'start' });
    // A part that has no field yet has a button to begin with.
    enter(form.value ? (fieldsOf(form.value)[0] ?? firstFocusable(form.value)) : undefined);
  }

  useEventListener(window, 'keydown', (event: KeyboardEvent) => {
    if (isDialogOpen()) return;
    if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) {
      event.preventDefault();
      acts.plan();
      return;
    }
    // By its place on the keyboard: with Alt a digit may type something else.
    const digit = /^(?:Digit|Numpad)(\d)$/.exec(event.code)?.[1];
    if (!event.altKey || event.ctrlKey || event.metaKey || digit === undefined) return;
    event.preventDefault();
    const number = (Number(digit) + 9) % 10;
    void (event.shiftKey ? toPart(number) : toPath(number));
  });
}
