/** What people are in the workshop, in words. */
import type { Role } from '@/api/client';

export const ROLES: { value: Role; text: string }[] = [
  { value: 'fitter', text: 'Fitter' },
  { value: 'apprentice', text: 'Apprentice: does all, a fitter signs it off' },
  { value: 'learner', text: 'Learner: practice jobs only' },
  { value: 'looker_on', text: 'Looker-on: sees all, changes nothing' },
  { value: 'owner', text: 'Owner: lets people in and out' },
];

export const roleInWords = (role: Role): string =>
  ROLES.find((known) => known.value === role)?.text.split(':')[0] ?? role;
