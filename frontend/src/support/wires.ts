/** Wires of a factory plug, in words. */
import type { Wire } from '@/api/client';

export const WIRE_ROLES: { value: Wire['role']; text: string }[] = [
  { value: 'unknown', text: 'not known' },
  { value: 'speaker', text: 'speaker' },
  { value: 'supply', text: 'supply, constant' },
  { value: 'switched', text: 'supply, with the key' },
  { value: 'turn_on', text: 'turn-on lead' },
  { value: 'ground', text: 'ground' },
  { value: 'data', text: 'data: not measured' },
];

export const roleInWords = (role: Wire['role']): string =>
  WIRE_ROLES.find((known) => known.value === role)?.text ?? role;
