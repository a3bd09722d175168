/** Regions that print on Letter; everybody else has A4 (CLDR's paper sizes, from memory). */
const LETTER = new Set(['US', 'CA', 'MX', 'PH', 'CL', 'CO', 'VE', 'CR', 'GT', 'NI', 'PA', 'SV', 'PR']);

/** Where a job's sheet or card is drawn as PDF, on the paper that this device's region has. */
export function paperAddress(
  job: string,
  kind: 'sheet' | 'card',
  language: string = navigator.language,
): string {
  const region = new Intl.Locale(language).maximize().region ?? '';
  return `/api/jobs/${job}/${kind}.pdf?paper=${LETTER.has(region) ? 'letter' : 'A4'}`;
}
