import { describe, expect, it } from 'vitest';
import { createMemoryHistory, createRouter } from 'vue-router';
import { pageAt, routes } from '@/routes';

const ADDRESSES = [
  '/',
  '/jobs/a',
  '/jobs/a/plan',
  '/jobs/a/run',
  '/jobs/a/run/gain.front',
  '/jobs/a/captures/b',
  '/sources',
  '/sources/a/',
  '/come-in',
  '/nothing/like/it',
];

describe('the page that is asked for before the router is there', () => {
  it.each(ADDRESSES)('is the one that the router finds: %s', (address) => {
    const router = createRouter({ history: createMemoryHistory(), routes });
    const found = router.resolve(address).matched.map((record) => record.components?.default);
    expect(pageAt(address)?.parts).toEqual(found);
  });
});
