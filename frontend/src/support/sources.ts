/** What kinds of source there are, and how they are played from, in words. */
import type { Cell, Source, SourceEntry, SourceSheet } from '@/api/client';
import { formatValue } from './quantity';
import { dateInWords } from './words';

export const SOURCE_KINDS: { value: Source['kind']; text: string }[] = [
  { value: 'receiver', text: 'Receiver with line outputs' },
  { value: 'amplified', text: 'Receiver with its own amplifier' },
  { value: 'factory', text: 'Factory radio or amplifier' },
  { value: 'player', text: 'Portable player' },
];

export const WAYS: Record<NonNullable<Cell['way']>, string> = {
  disc: 'Disc',
  usb: 'USB',
  wired_phone: 'Phone by wire',
  wireless_phone: 'Phone, wireless',
  projection_wired: 'Projection by cable',
  projection_wireless: 'Projection, wireless',
  auxiliary: 'Auxiliary',
  radio: 'Radio',
};

export const WAY_OPTIONS = [
  { value: null, text: 'as played' },
  ...(Object.entries(WAYS) as [NonNullable<Cell['way']>, string][]).map(([value, text]) => ({ value, text })),
];

export const outputOptions = (sheet: SourceSheet) =>
  sheet.outputs.map((output) => ({ value: output.id, text: output.name || output.id }));

/** What a clean maximum rests on. */
export const EVIDENCE: Record<NonNullable<Cell['basis']>, string> = {
  marked: 'seen clean',
  judged: 'by the volts',
  rated: 'where it reaches its rating',
  guess: 'a guess',
  sheet: 'by the sheet of another unit',
  follows: 'copied',
};

/** Which sheet told a job's source: its name, the unit, the day. */
export function sheetInWords(from: NonNullable<Source['from_sheet']>): string {
  const unit = from.unit ? `another unit (${from.unit})` : 'another unit';
  const day = from.measured_on ? dateInWords(from.measured_on) : '';
  return [`the sheet of ${from.name}`, unit, day].filter(Boolean).join(', ');
}

/** The clean volts of a source of the library, least to most. */
export function cleanVolts(sourceEntry: SourceEntry): string {
  if (sourceEntry.most_v == null || sourceEntry.least_v == null) return 'not measured';
  const most = formatValue(sourceEntry.most_v, 'V', 3);
  return sourceEntry.least_v < 0.99 * sourceEntry.most_v
    ? `${formatValue(sourceEntry.least_v, 'V', 3)} to ${most}`
    : most;
}
