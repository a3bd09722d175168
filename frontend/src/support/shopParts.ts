/** What kinds of part the shop keeps, in words. */
import type { PartKind } from '@/api/client';
import type { Part } from './refusals';

export const PART_KINDS: { value: PartKind; text: string }[] = [
  { value: 'amplifier', text: 'Amplifier' },
  { value: 'processor', text: 'Converter or processor' },
  { value: 'speakers', text: 'Speakers' },
];

export const partKindWords = (kind: PartKind): string =>
  PART_KINDS.find((known) => known.value === kind)?.text ?? kind;

/** The kind that is open on System. */
export const SHOP_KINDS: Partial<Record<Part, PartKind>> = {
  between: 'processor',
  amplifier: 'amplifier',
  speakers: 'speakers',
};
