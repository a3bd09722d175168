import { expect, it } from 'vitest';
import { paperOf } from '@/support/papers';

it.each([
  ['en-US', 'letter'],
  ['es-MX', 'letter'],
  ['en-GB', 'A4'],
  ['de', 'A4'],
])('the paper of %s is %s', (language, paper) => {
  expect(paperOf(language)).toBe(paper);
});
