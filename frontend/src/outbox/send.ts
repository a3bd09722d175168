/** Sending one entry, and what an answer means for it. */
import { api, type Capture, type Photo, Refusal, sendFile } from '@/api/client';
import type { Entry } from './entry';
import { fileOf } from './store';

/** How often a server that is there may fail at an entry before the others go first. */
const FAILURES = 5;

/** Sends it (a file from where the device keeps it, or the one at hand); gives the capture. Throws a Refusal. */
export async function send(
  entry: Entry,
  share: (done: number) => void,
  held?: Blob,
  signal?: AbortSignal,
): Promise<Capture | null> {
  const to = { installation: entry.installation, person: entry.person ?? null };
  const fileAtHand = async (): Promise<Blob> => {
    const file = held ?? (await fileOf(entry.key));
    if (!file) throw new Refusal(410, { status: 410, detail: 'The file is no longer on this device.' });
    return file;
  };
  switch (entry.kind) {
    case 'reading':
      return same(entry.body.id, await api.addReading(entry.job, entry.body, to));
    case 'offer':
      return same(entry.body.id, await api.offer(entry.job, entry.body, to));
    case 'mark':
      return same(entry.body.id, await api.addMark(entry.job, entry.body, to));
    case 'strike':
      return same(entry.record, await api.strike(entry.job, entry.record, entry.reason, to));
    case 'put-back':
      return same(entry.record, await api.putBack(entry.job, entry.record, to));
    case 'capture': {
      const address = `/api/jobs/${entry.job}/captures` as const;
      const kept = await sendFile<Capture>(address, await fileAtHand(), entry.told, to, share, signal);
      same(entry.told.id, kept);
      return kept;
    }
    case 'photo': {
      const address = `/api/jobs/${entry.job}/photos` as const;
      return same(
        entry.told.id,
        await sendFile<Photo>(address, await fileAtHand(), entry.told, to, share, signal),
      );
    }
    default:
      // A newer version of this app queued it. It waits until that version is open.
      throw new Refusal(0, {});
  }
}

/** Only an answer that names the record is this app's word that it has it; anything else on this port is not. */
function same(id: string, answer: { id?: string } | null): null {
  if (answer?.id !== id) throw new Refusal(0, {});
  return null;
}

export type Verdict =
  /** Nobody is there, or not the right one: try again by itself. */
  | 'wait'
  /** A server that is there failed at it. */
  | 'failed'
  /** It won't be taken as it is: into the list of what was refused. */
  | 'refused';

export function verdict(refusal: Refusal, entry: Entry): Verdict {
  if (refusal.passing) return 'wait';
  if (refusal.status >= 500) return (entry.failures ?? 0) + 1 < FAILURES ? 'failed' : 'refused';
  return 'refused';
}
