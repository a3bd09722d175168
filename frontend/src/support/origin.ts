/** Names of records that came with a file: nobody here answers for them. */
import type { RunView } from '@/api/client';

type Origin = RunView['origin'];

export const ofRecord = (by: string, arrival: number | undefined, origin: Origin): string =>
  origin && (arrival ?? 0) <= origin.records ? `${by || 'no name given'}, as the file says` : by;
export const ofVersion = (by: string, version: number, origin: Origin): string =>
  origin && version <= origin.versions ? `${by || 'no name given'}, as the file says` : by;
