/** A reading as it is listed: its figure with the unit, or in words where it has none. */
import type { Reading } from '@/api/client';
import { formatValue } from './quantity';

type Quantity = NonNullable<Reading['quantity']>;
type Words = (value: number, seen?: string | null) => string;

/** A unit, or how it is said; a quantity without its entry doesn't compile. */
const UNITS: Record<Quantity, string | Words> = {
  ac_volts: 'V',
  dc_volts: 'V',
  ohms: 'Ω',
  hertz: 'Hz',
  seconds: 's',
  decibels: 'dB',
  level: 'dBV',
  numbers: (value) => `${formatValue(value, '')} numbers`,
  continuity: (value) => (value ? 'connected' : 'not connected'),
  position: (value) => `knob ${formatValue(100 * value, '%')} up`,
  choice: (value) => `choice ${value}`,
  verdict: (_, seen) => (seen === 'clipped' ? 'heard harsh' : 'heard clean'),
};

/** Volts of both kinds are volts; a reading without a quantity is of AC volts. */
export function formatReading(value: number, quantity?: Quantity | null, seen?: string | null): string {
  const said = UNITS[quantity ?? 'ac_volts'];
  return typeof said === 'string' ? formatValue(value, said) : said(value, seen);
}
