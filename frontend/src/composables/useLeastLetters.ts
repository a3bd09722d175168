/** Drawings grow and shrink with their room; their letters keep a least size on the screen. */
import { useElementSize } from '@vueuse/core';
import { computed, useTemplateRef } from 'vue';

const LEAST_PX = 12.5;

/** A style for the drawing that the template names `drawing`, `units` wide, in which `--least` is that size. */
export function useLeastLetters(units: () => number) {
  const { width } = useElementSize(useTemplateRef<SVGSVGElement>('drawing'));
  return computed(() => ({ '--least': `${width.value ? (LEAST_PX * units()) / width.value : LEAST_PX}px` }));
}
