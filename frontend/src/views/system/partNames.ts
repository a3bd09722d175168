/** The parts of a path's system: on their buttons, in a sentence, and as the stages of its signal chain. */
import type { Course } from '@/api/client';
import type { Part } from '@/support/refusals';

export const TEXTS: [Part, string][] = [
  ['vehicle', 'Vehicle'],
  ['source', 'Source'],
  ['between', 'Converter or processor'],
  ['amplifier', 'Amplifier'],
  ['speakers', 'Speakers'],
  ['filters', 'Filters'],
  ['schools', 'Methods'],
];

export const NOUNS: Record<Part, string> = {
  vehicle: 'this vehicle',
  source: 'this source',
  between: 'this converter or processor',
  amplifier: 'this amplifier',
  speakers: 'these speakers',
  filters: 'these filters',
  schools: 'these methods',
};

export const STAGES: Record<Course['stage'], Part> = {
  source: 'source',
  processor: 'between',
  amplifier: 'amplifier',
  speakers: 'speakers',
};
