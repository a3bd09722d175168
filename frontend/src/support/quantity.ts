/** Strict reading of typed numbers. The same rules as the core's `units.parse_quantity`; both pass one set of cases. */
import { decimalMark, withMark } from './decimalMark';
import quantities from './quantities.json';

export type QuantityKind = keyof typeof quantities;
export type Parsed = { value: number } | { reason: string };

const PREFIXES: Record<string, number> = { u: 1e-6, µ: 1e-6, μ: 1e-6, m: 1e-3, k: 1e3, K: 1e3, M: 1e6 };
const TIMES = /^(\d+)\s*[x×*]\s*(\d[\s\S]*)$/;
/** What may be a decimal mark or one between thousands. */
const THOUSANDS = /^[1-9]\d{0,2}[.,]\d{3}$/;
const NUMBER = /^([+\-−]?)(\d+(?:[.,]\d*)?|[.,]\d+)\s*([\s\S]*)$/;

/** The value in the base unit of `kind`, or the reason why it can't be read. */
export function parseQuantity(text: string, kind: QuantityKind): Parsed {
  const shown = text.trim().replace(/[\u00a0\u202f]/g, ' ');
  const reason = unreadable(shown, kind);
  if (reason) return { reason };
  const [, sign = '', digits = '', rest = ''] = NUMBER.exec(shown) ?? [];
  const { unit } = quantities[kind];
  const factor = factorOf(rest, kind);
  if (factor === null)
    return {
      reason: `“${short(rest)}” in “${short(shown)}” isn’t a unit that fits here: ${unit || 'a plain number'} is wanted.`,
    };
  const value = Number(digits.replace(',', '.')) * factor;
  const size = read(value, digits, kind);
  if (size === null) {
    const ways = [value, 1000 * value].map((reading) => formatValue(reading, unit)).join(' or ');
    return { reason: `“${short(shown)}” can be read in more than one way: type ${ways}.` };
  }
  return bounded(sign === '-' || sign === '−' ? -size : size, kind, shown);
}

/** Why a text holds no number that can be read, or nothing. */
function unreadable(shown: string, kind: QuantityKind): string {
  const { unit, lowest } = quantities[kind];
  if (!shown) return `Nothing typed yet: ${example(unit, lowest)}.`;
  const [, count, value] = TIMES.exec(shown) ?? [];
  if (count && value)
    return `“${short(shown)}” is a count and a value: type ${short(value)} here, and the ${count} where it is asked how many there are.`;
  const rest = NUMBER.exec(shown)?.[3];
  if (rest === undefined) return `“${short(shown)}” isn’t a number: ${example(unit, lowest)}.`;
  if (/^[.,\d]/.test(rest))
    return `“${short(shown)}” can be read in more than one way: use one decimal mark and no spaces.`;
  return /^[eE]./.test(rest) ? `“${short(shown)}” has an exponent: ${example(unit, lowest)}.` : '';
}

/** Whether a minus may be needed, which a phone's number keys often lack. */
export const mayBeNegative = (kind: QuantityKind) => quantities[kind].lowest < 0;

/** The text with its sign turned. */
export const negated = (text: string) => {
  const shown = text.trim();
  return /^[-−]/.test(shown) ? shown.slice(1).trim() : `-${shown}`;
};

/** The text with a unit behind its number, in place of any other. */
export const withUnit = (text: string, unit: string) =>
  `${text.trim().replace(/[^\d.,]+$/, '')} ${unit}`.trim();

/** A single mark before three digits is read as the bounds allow; null where they allow both ways. */
function read(value: number, digits: string, kind: QuantityKind): number | null {
  const { lowest, highest } = quantities[kind];
  const large = 1000 * value;
  const known = decimalMark.value === ',' && digits.includes(',');
  if (known || !THOUSANDS.test(digits) || large < lowest || large > highest) return value;
  return value >= lowest ? null : large;
}

function bounded(value: number, kind: QuantityKind, shown: string): Parsed {
  const { unit, lowest, highest } = quantities[kind];
  if (kind === 'count' && !Number.isInteger(value))
    return { reason: `“${short(shown)}” isn’t a whole number.` };
  if (value >= lowest && value <= highest) return { value };
  const [is, low, high] = [value, lowest, highest].map((edge) => formatValue(edge, unit));
  return { reason: `${is} is out of bounds: it must be from ${low} to ${high}.` };
}

function factorOf(typed: string, kind: QuantityKind): number | null {
  const rest = typed.trim().replace(/\s+/g, ' ');
  const spellings: string[] = quantities[kind].spellings;
  if (!rest || spellings.includes(rest.toLowerCase())) return 1;
  const tail = rest.slice(1).trim().toLowerCase();
  const factor = PREFIXES[rest.charAt(0)];
  return spellings.length && factor !== undefined && (!tail || spellings.includes(tail)) ? factor : null;
}

function example(unit: string, lowest: number): string {
  if (!unit && lowest < 0) return 'type for example 0 or -2';
  if (!unit) return 'type a whole number, for example 27';
  return unit === 'V' ? `type for example ${withMark('18.4')} or 950 mV` : `type for example 4 or 4 ${unit}`;
}

function short(text: string): string {
  return text.length <= 24 ? text : `${text.slice(0, 23)}…`;
}

/** A value with its unit, to `figures` significant figures and never in exponent form. */
export function formatValue(value: number, unit: string, figures = 4): string {
  return `${value < 0 ? '−' : ''}${formatNumber(Math.abs(value), figures)} ${unit}`.trim();
}

export function formatNumber(value: number, figures = 4): string {
  if (value === 0 || !Number.isFinite(value)) return String(value);
  const decimals = Math.min(9, Math.max(0, figures - 1 - Math.floor(Math.log10(Math.abs(value)))));
  const text = value.toFixed(decimals);
  return withMark(text.includes('.') ? text.replace(/\.?0+$/, '') : text);
}

/** A value on a display: the zeros stay, so that the figures don't jump. */
export function steadyNumber(value: number, figures = 4): string {
  if (value === 0) return withMark('0.000');
  const decimals = Math.min(4, Math.max(0, figures - 1 - Math.floor(Math.log10(Math.abs(value)))));
  return withMark(value.toFixed(decimals));
}

/** A number with so many decimals, a true minus, and none before a zero. */
export function formatFixed(value: number, decimals: number): string {
  const text = withMark(Math.abs(value).toFixed(decimals));
  return Number(value.toFixed(decimals)) < 0 ? `−${text}` : text;
}

export const formatDb = (value: number, decimals = 1): string => `${formatFixed(value, decimals)} dB`;

/** A difference with its sign: the minus is as wide as the plus. */
export function formatSigned(value: number, decimals: number): string {
  return `${value < 0 ? '−' : '+'}${withMark(Math.abs(value).toFixed(decimals))}`;
}

/** ± as it stands beside a value: two significant figures, or "?" where nothing is promised. */
export function formatDoubt(doubt: number | null | undefined): string {
  return doubt === null || doubt === undefined ? '± ?' : `± ${formatNumber(doubt, 2)}`;
}
