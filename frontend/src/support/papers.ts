import type { paths } from '@/api/schema';

/** Regions that print on Letter; everybody else has A4 (CLDR's paper sizes, from memory). */
const LETTER = new Set(['US', 'CA', 'MX', 'PH', 'CL', 'CO', 'VE', 'CR', 'GT', 'NI', 'PA', 'SV', 'PR']);

/** A sheet of labels as its packet states it, in millimetres. */
export type LabelGrid = NonNullable<paths['/api/jobs/{job_id}/labels.pdf']['get']['parameters']['query']>;

export const paperOf = (language: string = navigator.language): 'letter' | 'A4' =>
  LETTER.has(new Intl.Locale(language).maximize().region ?? '') ? 'letter' : 'A4';

/** Where a job's labels are drawn on such a sheet. */
export function labelAddress(job: string, ending: 'pdf' | 'svg', grid: LabelGrid): string {
  const query = new URLSearchParams(Object.entries(grid).map(([name, value]) => [name, String(value)]));
  return `/api/jobs/${job}/labels.${ending}?${query.toString()}`;
}

/** Where a job's sheet or card is drawn as PDF, on the paper that this device's region has. */
export function paperAddress(
  job: string,
  kind: 'sheet' | 'card',
  language: string = navigator.language,
): string {
  return `/api/jobs/${job}/${kind}.pdf?paper=${paperOf(language)}`;
}
