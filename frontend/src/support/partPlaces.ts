/** Where the part that is open on System has its place in the system: `amplifiers.front`. */
import type { Path } from '@/api/client';
import type { Part } from './refusals';

const PLACES: Partial<Record<Part, (path: Path) => string | undefined>> = {
  source: (path) => `sources.${path.source}`,
  between: (path) => (path.through[0] ? `processors.${path.through[0]}` : undefined),
  amplifier: (path) => `amplifiers.${path.amplifier}`,
  speakers: (path) => `loads.${path.load}`,
  filters: (path) => `paths.${path.id}`,
};

export const placeOfPart = (part: Part, path: Path): string | undefined => PLACES[part]?.(path);
