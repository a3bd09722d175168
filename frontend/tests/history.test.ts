import { expect, test } from 'vitest';
import type { SheetVersion } from '@/api/client';
import { sittings } from '@/support/history';

const at = (minutes: number) => new Date(Date.UTC(2026, 4, 3, 9, minutes)).toISOString();
const saved = (version: number, minutes: number, by: string, was: number, now: number): SheetVersion => ({
  version,
  saved_at: at(minutes),
  by,
  changes: [{ place: 'chain.loads.front.power_w', was, now, label: 'Speakers, watts' }],
});
const begun: SheetVersion = { version: 1, saved_at: at(0), by: 'Ada', changes: [] };

test('small saves of one person in a row are one sitting, from first to last value', () => {
  const told = sittings([
    saved(4, 3, 'Ada', 61, 62),
    saved(3, 2, 'Ada', 60, 61),
    saved(2, 1, 'Ada', 50, 60),
    begun,
  ]);
  expect(told.map((sitting) => [sitting.version, sitting.changes.map(({ was, now }) => [was, now])])).toEqual(
    [
      [4, [[50, 62]]],
      [1, []],
    ],
  );
});

test('another person, or a long pause, begins another', () => {
  const told = sittings([
    saved(4, 40, 'Ada', 61, 62),
    saved(3, 2, 'Ada', 60, 61),
    saved(2, 1, 'Ben', 50, 60),
    begun,
  ]);
  expect(told.map((sitting) => sitting.version)).toEqual([4, 3, 2, 1]);
});

test('what was put back again is no change', () => {
  const told = sittings([saved(3, 2, 'Ada', 60, 50), saved(2, 1, 'Ada', 50, 60), begun]);
  expect(told[0]?.changes).toEqual([]);
});
