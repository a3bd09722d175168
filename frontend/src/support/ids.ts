import { toRaw } from 'vue';
import type { Amplifier, Chain } from '@/api/client';

/** A name for a new part that nothing else has. */
export function newId(kind: string): string {
  return `${kind}-${crypto.randomUUID().slice(0, 8)}`;
}

/** Takes a part out of its list where it stands; a filtered list would hold what Vue wraps around each. */
export function takeOut(parts: { id: string }[], id: string | undefined): void {
  const place = parts.findIndex((part) => part.id === id);
  if (place >= 0) parts.splice(place, 1);
}

/** A deep copy of plain data; what Vue wraps around it is left behind at any depth, since nothing else can be kept. */
export function copyOf<T>(value: T): T {
  const raw: unknown = toRaw(value);
  if (Array.isArray(raw)) return raw.map(copyOf) as T;
  if (raw === null || typeof raw !== 'object') return raw as T;
  const copy: Record<string, unknown> = {};
  for (const key of Object.keys(raw)) copy[key] = copyOf((raw as Record<string, unknown>)[key]);
  return copy as T;
}

/** The sections of an amplifier that no path uses. */
export function freeSections(chain: Chain, amplifier: Amplifier): string[] {
  const taken = new Set(
    chain.paths.filter((path) => path.amplifier === amplifier.id).map((path) => path.section),
  );
  return amplifier.sections.map((section) => section.id).filter((id) => !taken.has(id));
}

/** Takes an amplifier out unless a path still hangs on it, and what is built into it. */
export function takeOutAmplifier(chain: Chain, id: string | undefined): void {
  if (!id || chain.paths.some((path) => path.amplifier === id)) return;
  takeOut(chain.amplifiers, id);
  for (const processor of chain.processors) if (processor.inside === id) processor.inside = null;
}
