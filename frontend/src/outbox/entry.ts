/** What waits on this device to be sent. */
import type { NewMark, NewPhoto, NewReading, Told } from '@/api/client';

export type Sent =
  | { kind: 'reading'; body: NewReading }
  /** Read on a device that doesn't hold the run. */
  | { kind: 'offer'; body: NewReading }
  | { kind: 'mark'; body: NewMark }
  | { kind: 'strike'; record: string; reason: string; sequence?: number }
  | { kind: 'put-back'; record: string; sequence?: number }
  | { kind: 'capture'; told: Told }
  | { kind: 'photo'; told: NewPhoto };

/** What comes with a file. */
export type SentFile = Sent & { kind: 'capture' | 'photo' };

export const isFile = <Some extends Sent>(sent: Some): sent is Some & SentFile =>
  sent.kind === 'capture' || sent.kind === 'photo';

/** What a list says of it beside the figures. */
export type About = { vehicle: string; step: string };

/** Why the server wouldn't have it. */
type Refused = { status: number; sentence: string; at: number };

export type Entry = Sent & {
  key: string;
  job: string;
  at: number;
  /** The installation it is meant for; null while none was known. */
  installation: string | null;
  /** Who did it, where somebody was signed in: it is sent under no other name. */
  person?: string | null;
  about?: About;
  refused?: Refused | null;
  /** How often a server that is there failed at it. */
  failures?: number;
};

/** An entry as this tab knows it. */
export type Listed = Entry & {
  /** Whether the device has kept it, or can't. */
  ready: boolean;
  /** Whether the device has it in its storage. */
  kept: boolean;
  /** On the server, but not yet in what is shown. */
  sent: boolean;
  /** Of a file, from 0 to 1. */
  share: number;
  /** The device couldn't keep it: it lasts as long as the page. */
  fleeting?: boolean;
};

const ONLY_LISTED = new Set(['ready', 'kept', 'sent', 'share', 'fleeting']);

/** What is kept of a listed entry, as plain data. */
export function entryOf(listed: Listed): Entry {
  const own = Object.entries(listed).filter(([name]) => !ONLY_LISTED.has(name));
  return JSON.parse(JSON.stringify(Object.fromEntries(own))) as Entry;
}
