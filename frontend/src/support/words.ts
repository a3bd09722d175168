import type { Change, JobSheet, Verdict } from '@/api/client';

export const VERDICT_WORDS: Record<Verdict | 'unseen', string> = {
  clean: 'clean',
  edge: 'at the edge',
  clipped: 'clipped',
  square: 'square',
  distorted: 'distorted',
  over_range: 'larger than the range',
  wrong_tone: 'wrong tone',
  not_a_tone: 'not a tone',
  silent: 'silent',
  too_short: 'too short',
  unseen: 'can’t tell',
};

export function valueInWords(value: Change['was']): string {
  if (value === null || value === '') return 'nothing';
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  return String(value);
}

/** Made when it is first wanted: that takes a phone a tenth of a second, which most pages can do without. */
function formatter(parts: Intl.DateTimeFormatOptions): (day: Date) => string {
  let made: Intl.DateTimeFormat | undefined;
  return (day) => (made ??= new Intl.DateTimeFormat('en-GB', parts)).format(day);
}

const DAY_PARTS = { day: 'numeric', month: 'long', year: 'numeric' } as const;
const inUtc = formatter({ ...DAY_PARTS, timeZone: 'UTC' });
const when = formatter({
  day: 'numeric',
  month: 'short',
  year: 'numeric',
  hour: '2-digit',
  minute: '2-digit',
});

export const dayInWords = formatter(DAY_PARTS);

/** A day as it is written down (2026-05-03): the same one wherever it is read. */
export const dateInWords = (day: string): string => inUtc(new Date(day));

/** Today as it is written down, where this device is. */
export function todayAsWritten(): string {
  const now = new Date();
  const two = (number: number) => String(number).padStart(2, '0');
  return `${now.getFullYear()}-${two(now.getMonth() + 1)}-${two(now.getDate())}`;
}

/** A day so many days before another, both as they are written down. */
export function daysBefore(day: string, days: number): string {
  return new Date(Date.parse(day) - days * 24 * 3600 * 1000).toISOString().slice(0, 10);
}

export const whenInWords = (moment: string): string => when(new Date(moment));

/** What a job is called: its vehicle; a source by itself by its name and the unit; practice is called so everywhere. */
export function jobName(sheet: JobSheet | undefined): string {
  const source = sheet?.subject === 'source' ? sheet.chain.sources[0]?.name : '';
  const name = [source, sheet?.vehicle].filter(Boolean).join(', ') || 'Unnamed vehicle';
  return sheet?.practice ? `Practice: ${name}` : name;
}
