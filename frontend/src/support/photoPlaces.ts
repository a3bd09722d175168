/** What a photo can show: the vehicle, a part of the system, a step. */
import type { Chain, Step } from '@/api/client';
import type { Shown } from '@/composables/usePhotos';

export type PhotoPlace = { shows: Shown; text: string };

const KINDS = ['sources', 'processors', 'amplifiers', 'loads', 'paths'] as const;
const NOUNS: Record<(typeof KINDS)[number], string> = {
  sources: 'Source',
  processors: 'Converter or processor',
  amplifiers: 'Amplifier',
  loads: 'Speakers',
  paths: 'Filters of',
};

/** The name of a part by its place in the system. */
const partText = (kind: (typeof KINDS)[number], name: string): string =>
  name ? `${NOUNS[kind]} ${name}` : NOUNS[kind];

/** Everything that a photo can be put to, the vehicle first. */
export function placesOf(chain: Chain | undefined, steps: readonly Step[]): PhotoPlace[] {
  const parts = KINDS.flatMap((kind) =>
    (chain?.[kind] ?? []).map((part) => ({
      shows: { part: `${kind}.${part.id}` },
      text: partText(kind, part.name ?? ''),
    })),
  );
  const taken = steps.map((step) => ({ shows: { step: step.key }, text: `Step ${step.name}` }));
  return [{ shows: {}, text: 'The vehicle' }, ...parts, ...taken];
}
