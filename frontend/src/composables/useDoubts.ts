/** Figures that nobody has confirmed: how each is found out, and adding one that somebody doesn't know after all. */
import { inject, type InjectionKey, provide, type Ref } from 'vue';
import type { Doubted } from '@/api/client';

type Doubts = {
  all: Readonly<Ref<readonly Doubted[]>>;
  /** Marks the value at a place of the system as not confirmed, as it is now. */
  doubt: (place: string) => void;
};
const KEY: InjectionKey<Doubts> = Symbol('doubts');

export const provideDoubts = (doubts: Doubts) => provide(KEY, doubts);

export function useDoubts() {
  const doubts = inject(KEY, undefined);
  /** What to say at a field whose value came with a layout or a default. */
  function hintAt(place: string | undefined): string | undefined {
    const found = place && doubts?.all.value.find((doubt) => doubt.place === place);
    return found ? `Not confirmed: ${found.how}.` : undefined;
  }
  return { hintAt, doubt: (place: string) => doubts?.doubt(place) };
}
