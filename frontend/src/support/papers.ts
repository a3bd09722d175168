import type { paths } from '@/api/schema';

/** Regions that print on Letter; everybody else has A4 (CLDR's paper sizes, from memory). */
const LETTER = new Set(['US', 'CA', 'MX', 'PH', 'CL', 'CO', 'VE', 'CR', 'GT', 'NI', 'PA', 'SV', 'PR']);

/** A sheet of labels as its packet states it, in millimetres. */
export type LabelGrid = NonNullable<paths['/api/jobs/{job_id}/labels.pdf']['get']['parameters']['query']>;

/** The paper that this device's region prints on. */
export const paperOf = (language: string = navigator.language): 'letter' | 'A4' =>
  LETTER.has(new Intl.Locale(language).maximize().region ?? '') ? 'letter' : 'A4';
