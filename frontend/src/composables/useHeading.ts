/** The heading of a page takes the focus when the page comes, so that it is told and nothing else is pressed. */
import { type ShallowRef, useTemplateRef, watch } from 'vue';
import { toHeading } from '@/support/focus';

/** The element that the template names `heading`. */
export function useHeading(): Readonly<ShallowRef<HTMLElement | null>> {
  const heading = useTemplateRef<HTMLElement>('heading');
  watch(heading, toHeading, { flush: 'post' });
  return heading;
}
