/** A part made the same as another path's: copied into its own place, so that both can differ later. */
import type { Chain, Path } from '@/api/client';
import { copyOf, newId } from './ids';

type Kind = 'amplifier' | 'load';
const LISTS = { amplifier: 'amplifiers', load: 'loads' } as const;

/** The paths whose part of that kind is another one than this path's. */
export function others(chain: Chain, path: Path, kind: Kind): Path[] {
  return chain.paths.filter((one) => one[kind] !== path[kind]);
}

/** Makes the part of `path` the same as that of `from`; one that other paths hang on stays theirs. */
export function makeAlike(chain: Chain, path: Path, from: Path, kind: Kind): void {
  const parts: { id: string }[] = chain[LISTS[kind]];
  const model = parts.find((one) => one.id === from[kind]);
  if (!model) return;
  const shared = chain.paths.some((one) => one !== path && one[kind] === path[kind]);
  const id = shared ? newId(kind === 'load' ? 'speakers' : kind) : path[kind];
  const copy = { ...copyOf(model), id };
  const place = parts.findIndex((one) => one.id === id);
  if (place < 0) parts.push(copy);
  else parts[place] = copy;
  path[kind] = id;
  if (kind === 'amplifier') {
    const { section, mode, input } = from;
    Object.assign(path, { section, mode, input });
  }
}
