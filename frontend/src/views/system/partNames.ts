/** The parts of a path's system: on their buttons, in a sentence, and as the stages of its signal chain. */
import type { StageLevel } from '@/api/client';
import type { Part } from '@/support/refusals';

export const TEXTS: [Part, string][] = [
  ['vehicle', 'Vehicle'],
  ['source', 'Source'],
  ['between', 'Converter or processor'],
  ['amplifier', 'Amplifier'],
  ['speakers', 'Speakers'],
  ['filters', 'Filters'],
  ['methods', 'Methods'],
];

export const NOUNS: Record<Part, string> = {
  vehicle: 'this vehicle',
  source: 'this source',
  between: 'this converter or processor',
  amplifier: 'this amplifier',
  speakers: 'these speakers',
  filters: 'these filters',
  methods: 'these methods',
};

export const STAGES: Record<StageLevel['stage'], Part> = {
  source: 'source',
  processor: 'between',
  amplifier: 'amplifier',
  speakers: 'speakers',
};
