/** What waits or was refused, in words and as a table to take away. */
import type { Entry } from './entry';
import { formatReading } from '@/support/readings';

/** What was taken or said. */
export function whatOf(entry: Entry): string {
  switch (entry.kind) {
    case 'reading':
    case 'offer': {
      const { value, quantity, seen, circumstances } = entry.body;
      const at = circumstances.volume == null ? '' : ` at ${circumstances.volume}`;
      return `${formatReading(value, quantity, seen)}${at}`;
    }
    case 'mark':
      return saidOf(entry.body);
    case 'strike':
      return 'an undo';
    case 'put-back':
      return 'putting something back';
    case 'capture':
      return `capture “${entry.told.name}”`;
    case 'photo':
      return entry.told.name ? `photo “${entry.told.name}”` : 'photo';
  }
}

function saidOf(body: (Entry & { kind: 'mark' })['body']): string {
  if (body.basis) return `clean maximum ${body.volume}`;
  if (body.item) return `${body.item}: ${body.answer}`;
  return body.skipped ? `skipped: ${body.note}` : String(body.outcome);
}

export const stepOf = (entry: Entry): string => entry.about?.step || ('body' in entry ? entry.body.step : '');

const HEAD = [
  'taken_at',
  'vehicle',
  'job',
  'step',
  'what',
  'value',
  'quantity',
  'volume',
  'seen',
  'by',
  'reason',
];

/** Everything in it as CSV, nothing rounded. */
export function asCsv(entries: readonly Entry[]): string {
  const rows = entries.map((entry) =>
    [
      ...fromOf(entry),
      whatOf(entry),
      ...figuresOf(entry),
      byOf(entry),
      entry.refused?.sentence ?? 'waiting',
    ].map(cell),
  );
  return [HEAD, ...rows].map((row) => `${row.join(',')}\r\n`).join('');
}

function ownOf(entry: Entry) {
  if ('body' in entry) return entry.body;
  return 'told' in entry ? entry.told : null;
}
const byOf = (entry: Entry) => ownOf(entry)?.by;
const fromOf = (entry: Entry) => [
  ownOf(entry)?.taken_at ?? new Date(entry.at).toISOString(),
  entry.about?.vehicle,
  entry.job,
  'body' in entry ? entry.body.step : entry.about?.step,
];

function figuresOf(entry: Entry): unknown[] {
  if (entry.kind !== 'reading' && entry.kind !== 'offer') return ['', '', '', ''];
  const { value, quantity, circumstances, seen } = entry.body;
  return [value, quantity, circumstances.volume, seen];
}

function cell(value: unknown): string {
  const text = String(value ?? '');
  // A spreadsheet would take these for formulas.
  const plain = /^[=+\-@]/.test(text) && !/^-?[\d.]+$/.test(text) ? `'${text}` : text;
  return /[",\r\n]/.test(plain) ? `"${plain.replaceAll('"', '""')}"` : plain;
}
