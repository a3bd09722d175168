/** A press of the pointer leaves the focus at the step's heading, so that the next Enter is the step's; Tab's stays. */
import { useEventListener } from '@vueuse/core';
import type { Ref } from 'vue';
import { isDialogOpen } from '@/support/keys';
import { toHeading } from '@/support/focus';

const PRESSED = 'a[href], button, summary';
const CHANGED = 'select, input[type=checkbox], input[type=radio], input[type=range]';

export function useHeadingBack(heading: Readonly<Ref<HTMLElement | null>>): void {
  let byPointer = false;
  useEventListener(window, 'pointerdown', () => (byPointer = true), { capture: true });
  useEventListener(window, 'keydown', () => (byPointer = false), { capture: true });

  function back(event: Event, controls: string): void {
    const control = event.target instanceof Element ? event.target.closest<HTMLElement>(controls) : null;
    if (!byPointer || !control || !heading.value?.closest('.run')?.contains(control)) return;
    // What it did comes first: a dialog that it opened, or another field, keeps the focus.
    window.setTimeout(() => {
      const now = document.activeElement;
      if (!isDialogOpen() && (now === control || now === document.body)) toHeading(heading.value);
    });
  }
  useEventListener(window, 'click', (event) => back(event, PRESSED));
  useEventListener(window, 'change', (event) => back(event, CHANGED));
}
