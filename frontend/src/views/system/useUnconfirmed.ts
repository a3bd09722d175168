/** Which of the figures that nobody has confirmed belong to what is open, and the value at a place of the sheet. */
import type { Chain, Doubted, Path } from '@/api/client';
import type { Part } from '@/support/refusals';

type Node = Record<string, unknown> & { id?: string };
const within = (list: unknown, id: string | undefined): Node | undefined =>
  Array.isArray(list) ? (list as Node[]).find((node) => node.id === id) : undefined;

/** The value at a place within the system, parts by their ids: `sources.radio.outputs.front.rated`. */
export function valueAt(chain: Chain, place: string): unknown {
  const [list = '', id, ...rest] = place.split('.');
  const part = within((chain as unknown as Record<string, unknown>)[list], id);
  const [inner = '', innerId, field = ''] = rest;
  return rest.length === 3 ? within(part?.[inner], innerId)?.[field] : part?.[inner];
}

/** Those of the part of a path that is open. */
export function ofPart(all: readonly Doubted[], path: Path | undefined, part: Part): Doubted[] {
  if (!path) return [];
  const own: Partial<Record<Part, string[]>> = {
    source: [`sources.${path.source}.`],
    between: path.through.map((processor) => `processors.${processor}.`),
    amplifier: [`amplifiers.${path.amplifier}.`],
    speakers: [`loads.${path.load}.`],
    filters: [`paths.${path.id}.filters`],
  };
  return all.filter(
    (unconfirmed) =>
      unconfirmed.paths.includes(path.id) && own[part]?.some((start) => unconfirmed.place.startsWith(start)),
  );
}
