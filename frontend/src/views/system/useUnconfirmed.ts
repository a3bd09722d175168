/** Values that nobody has confirmed: which of them belong to what is open, and how each is found out. */
import { inject, type InjectionKey, provide, type Ref } from 'vue';
import type { Doubted, Path } from '@/api/client';
import type { Part } from '@/support/refusals';

const KEY: InjectionKey<Readonly<Ref<readonly Doubted[]>>> = Symbol('unconfirmed');

export const provideUnconfirmed = (all: Readonly<Ref<readonly Doubted[]>>) => provide(KEY, all);

/** What to say at a field whose value came with a layout or a default. */
export function useUnconfirmed() {
  const all = inject(KEY);
  const hintAt = (place: string): string | undefined => {
    const found = all?.value.find((one) => one.place === place);
    return found && `Not confirmed: ${found.how}.`;
  };
  return { hintAt };
}

/** Those of the part of a path that is open. */
export function ofPart(all: readonly Doubted[], path: Path | undefined, part: Part): Doubted[] {
  if (!path) return [];
  const own: Partial<Record<Part, string[]>> = {
    source: [`sources.${path.source}.`],
    between: path.through.map((one) => `processors.${one}.`),
    amplifier: [`amplifiers.${path.amplifier}.`],
    speakers: [`loads.${path.load}.`],
    filters: [`paths.${path.id}.filters`],
  };
  return all.filter(
    (one) => one.paths.includes(path.id) && own[part]?.some((start) => one.place.startsWith(start)),
  );
}
