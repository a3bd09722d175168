import { toRaw } from 'vue';

/** A name for a new part that nothing else has. */
export function newId(kind: string): string {
  return `${kind}-${crypto.randomUUID().slice(0, 8)}`;
}

/** Takes a part out of its list where it stands; a filtered list would hold what Vue wraps around each. */
export function takeOut(parts: { id: string }[], id: string | undefined): void {
  const place = parts.findIndex((one) => one.id === id);
  if (place >= 0) parts.splice(place, 1);
}

/** A deep copy of plain data, a reactive one's included. */
export function copyOf<T>(value: T): T {
  return structuredClone(toRaw(value));
}
