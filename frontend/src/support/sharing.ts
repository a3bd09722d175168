/** Two acts that are easily taken for each other: a path hung on another path's amplifier, and figures copied from one. */
import type { Amplifier, Chain, Path } from '@/api/client';
import { copyOf, freeSections, newId, takeOut, takeOutAmplifier } from './ids';

type Section = Amplifier['sections'][number];

type Kind = 'amplifier' | 'load';
const LISTS = { amplifier: 'amplifiers', load: 'loads' } as const;
/** What is copied is figures: a part keeps the name it has. */
const KEPT = { amplifier: ['id', 'name', 'sections'], load: ['id', 'name'] };

/** The paths whose part of that kind is another one than this path's. */
export function others(chain: Chain, path: Path, kind: Kind): Path[] {
  return chain.paths.filter((other) => other[kind] !== path[kind]);
}

/** Copies the figures of `from`'s part into that of `path`; one that other paths hang on stays theirs. */
export function copyFigures(chain: Chain, path: Path, from: Path, kind: Kind): void {
  const parts: (Record<string, unknown> & { id: string })[] = chain[LISTS[kind]];
  const model = parts.find((part) => part.id === from[kind]);
  const own = parts.find((part) => part.id === path[kind]);
  if (!model || !own) return;
  const figures = Object.fromEntries(
    Object.entries(copyOf(model)).filter(([field]) => !KEPT[kind].includes(field)),
  );
  if (kind === 'amplifier') Object.assign(figures, sectionFigures(model as unknown as Amplifier, from));
  const shared = chain.paths.some((other) => other !== path && other[kind] === path[kind]);
  if (shared) {
    const id = newId(kind === 'load' ? 'speakers' : kind);
    parts.push({ ...copyOf(own), ...figures, id, ...(kind === 'amplifier' ? { sections: [] } : {}) });
    path[kind] = id;
    if (kind === 'amplifier') path.section = null;
  } else Object.assign(own, figures);
  if (kind === 'amplifier') Object.assign(path, { mode: from.mode, input: from.input });
}

/** What a section has for itself counts before what its amplifier has. */
function sectionFigures(amplifier: Amplifier, path: Path): Partial<Amplifier> {
  const section = amplifier.sections.find((section) => section.id === path.section);
  if (!section) return {};
  const { ratings, channels, lowest_load_ohm, gain_range, high_level_range } = copyOf(section);
  return {
    ...(ratings.length ? { ratings } : {}),
    ...(channels ? { channels } : {}),
    ...(lowest_load_ohm ? { lowest_load_ohm } : {}),
    ...(gain_range ? { gain_range } : {}),
    ...(high_level_range ? { high_level_range } : {}),
  };
}

/** The channels of a section as they are counted on the chassis: “3 + 4”, “5”. */
export function channelsOf(amplifier: Amplifier, section: string | null | undefined): string {
  let next = 1;
  for (const candidate of amplifier.sections) {
    const count = candidate.channels ?? amplifier.channels;
    const own = count === 2 ? `${next} + ${next + 1}` : `${next}`;
    if (candidate.id === section) return own;
    next += count;
  }
  return amplifier.channels === 2 ? '1 + 2' : '1';
}

/** The channels that come after all that an amplifier has. */
function nextChannels(amplifier: Amplifier): string {
  const last = channelsOf(amplifier, amplifier.sections.at(-1)?.id);
  const taken = Number(last.split(' + ').at(-1));
  return amplifier.channels === 2 ? `${taken + 1} + ${taken + 2}` : `${taken + 1}`;
}

const pathsOn = (chain: Chain, amplifier: string) =>
  chain.paths.filter((path) => path.amplifier === amplifier);

/** What an amplifier is called, told apart from others of its name by the paths that it drives. */
function amplifierName(chain: Chain, amplifier: Amplifier): string {
  const name = amplifier.name || 'Unnamed amplifier';
  const alike = chain.amplifiers.filter((amplifier) => (amplifier.name || 'Unnamed amplifier') === name);
  if (alike.length < 2) return name;
  const drives = pathsOn(chain, amplifier.id).map((path) => path.name || 'a path');
  return `${name} (${drives.join(', ')})`;
}

/** An amplifier that a path could be hung on, and the channels that it would get there. */
export type Share = { amplifier: string; section: string | null; channels: string; text: string };

/** Every amplifier of another path, with channels that are free or that it may have besides. */
export function shares(chain: Chain, path: Path): Share[] {
  return chain.amplifiers
    .filter((amplifier) => amplifier.id !== path.amplifier && pathsOn(chain, amplifier.id).length)
    .map((amplifier) => {
      const [section = null] = freeSections(chain, amplifier);
      const channels = section ? channelsOf(amplifier, section) : nextChannels(amplifier);
      return {
        amplifier: amplifier.id,
        section,
        channels,
        text: `${amplifierName(chain, amplifier)}: channels ${channels}`,
      };
    });
}

/**
 * Hangs a path on another path's amplifier, which gets a section for each of them where it had none; `blank` is a
 * section as a new one begins.
 */
export function share(chain: Chain, path: Path, wanted: Share, blank: Section): void {
  const amplifier = chain.amplifiers.find((amplifier) => amplifier.id === wanted.amplifier);
  if (!amplifier) return;
  const add = (channels: string): Section => {
    const name = `${channels.includes('+') ? 'Channels' : 'Channel'} ${channels}`;
    const made = { ...copyOf(blank), id: newId('section'), name };
    amplifier.sections.push(made);
    return made;
  };
  if (!amplifier.sections.length) {
    const first = add(channelsOf(amplifier, null));
    for (const path of pathsOn(chain, amplifier.id)) path.section = first.id;
  }
  const section = wanted.section ?? add(wanted.channels).id;
  const left = path.amplifier;
  Object.assign(path, { amplifier: amplifier.id, section });
  takeOutAmplifier(chain, left);
}

/** An amplifier of its own for a path, with the figures of the one that it hangs on and no name yet. */
export function ownAmplifier(amplifier: Amplifier, path: Path): Amplifier {
  return {
    ...copyOf(amplifier),
    ...sectionFigures(amplifier, path),
    id: newId('amplifier'),
    name: '',
    sections: [],
  };
}

/** Gives a path that shares its amplifier one of its own again, with the figures that it had there. */
export function unshare(chain: Chain, path: Path): void {
  const shared = chain.amplifiers.find((amplifier) => amplifier.id === path.amplifier);
  if (!shared) return;
  const own = ownAmplifier(shared, path);
  chain.amplifiers.push(own);
  takeOut(shared.sections, path.section ?? undefined);
  Object.assign(path, { amplifier: own.id, section: null });
}
