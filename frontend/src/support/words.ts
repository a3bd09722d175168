import type { Change, Verdict } from '@/api/client';

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
  unseen: 'not seen',
};

export function valueInWords(value: Change['was']): string {
  if (value === null || value === '') return 'nothing';
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  return String(value);
}

const WHEN = new Intl.DateTimeFormat('en-GB', {
  day: 'numeric',
  month: 'short',
  hour: '2-digit',
  minute: '2-digit',
});

const DAY = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'long' });

export const dayInWords = (day: Date): string => DAY.format(day);

export function whenInWords(moment: string): string {
  return WHEN.format(new Date(moment));
}
