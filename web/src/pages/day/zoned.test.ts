import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { instantIn, wallOf } from './zoned.ts';

// Zones of the IANA database; the days on which their clocks change are those of 2026.
test.each([
  ['Europe/Lisbon', '2026-07-26T14:40:00', '2026-07-26T13:40:00.000Z'],
  ['Europe/Lisbon', '2026-11-26T14:40:00', '2026-11-26T14:40:00.000Z'],
  ['Asia/Kolkata', '2026-11-26T14:40', '2026-11-26T09:10:00.000Z'],
  ['America/New_York', '2026-03-08T03:30:00', '2026-03-08T07:30:00.000Z'],
])('%s: %s', (zone, wall, instant) => {
  expect(new Date(instantIn(wall, zone)!).toISOString()).toBe(instant);
});

test('every instant comes back from its wall clock, but for the hour that comes twice', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: Date.UTC(2000, 0, 1) / 1000, max: Date.UTC(2040, 0, 1) / 1000 }),
      fc.constantFrom('Europe/Lisbon', 'Asia/Kolkata', 'Australia/Lord_Howe', 'America/New_York', 'UTC'),
      (seconds, zone) => {
        const wall = wallOf(seconds * 1000, zone);
        const back = instantIn(wall, zone)!;
        expect(wallOf(back, zone)).toBe(wall);
        expect(Math.abs(back - seconds * 1000)).toBeLessThanOrEqual(3_600_000);
      },
    ),
  );
});

test('what is no date is none', () => {
  expect([instantIn('', 'UTC'), instantIn('14:30', 'UTC'), instantIn('2026-13-01T10:00', 'UTC')]).toEqual([
    null,
    null,
    null,
  ]);
});
