import { describe, expect, test } from '@jest/globals';
import { newJob, newSetup, OUTCOME_FIELDS, USE_PRESETS, type Job } from '@prandel/core';
import fc from 'fast-check';
import { readPackage } from './readPackage.ts';
import { writePackage } from './writePackage.ts';

const GEARING = { ratios: [3.2, 2.1, 1.5], finalDrive: 3.9, circumferenceM: 1.94, limiterRpm: 6500, shiftSeconds: 0.4 };
const job = (more: Partial<Job>): Job => ({ ...newJob('QG-1', 'Which part?'), ...more });

/** A package of the job with something else in its `prandel` object. */
function withMember(member: object) {
  const files = writePackage(job({}));
  const descriptor = JSON.parse(new TextDecoder().decode(files.get('datapackage.json'))) as { prandel: object };
  const changed = { ...descriptor, prandel: { ...descriptor.prandel, ...member } };
  return new Map(files).set('datapackage.json', new TextEncoder().encode(JSON.stringify(changed)));
}

describe('costs, gears and use in a package', () => {
  const amount = fc.option(fc.integer({ min: 0, max: 9000 }), { nil: null });
  const more = fc.record(
    {
      costs: fc
        .record({ adapters: amount, consumables: amount, tune: amount })
        .filter((c) => Object.values(c).some((v) => v !== null)),
      cure: fc.constant(true),
      permanent: fc.constant(true),
      addedAt: fc.constantFrom('2026-05-02T15:10:00Z', '2026-05-02T15:14:30.250Z'),
      outcomes: fc.dictionary(fc.constantFrom(...OUTCOME_FIELDS), fc.constantFrom('1', 'louder, a bit', 'süß'), {
        minKeys: 1,
      }),
    },
    { requiredKeys: [] },
  );

  test('of setups go out and come in again as they were; none of their columns is written without need (property)', () => {
    fc.assert(
      fc.property(more, more, (b, c) => {
        const setups = [newSetup('A', 'a'), { ...newSetup('B', 'b', 'A'), ...b }, { ...newSetup('C', 'c', 'A'), ...c }];
        const read = readPackage(writePackage(job({ setups: setups }))).job.setups;
        expect(read).toEqual(setups);
      }),
      { numRuns: 80 },
    );
    const plain = new TextDecoder().decode(writePackage(job({})).get('setups.csv'));
    expect(plain).not.toMatch(/adapters|cure|permanent|added|noise/);
  });

  test('of the job too', () => {
    const own = { money: { currency: 'EUR', hourlyRate: 78 }, gearing: GEARING, use: USE_PRESETS.street };
    expect(readPackage(writePackage(job(own))).job).toMatchObject(own);
    expect(readPackage(writePackage(job({}))).job.money).toBeUndefined();
  });

  test.each([
    [{ gearing: { ...GEARING, ratios: [2, 3] } }, 'gearing: gear 2 (3) is shorter than gear 1 (2)'],
    [{ gearing: { ...GEARING, finalDrive: 'long' } }, 'gearing.finalDrive: no number'],
    [{ use: { name: 'mine', shares: [{ fromRpm: 3000, share: 0.4 }] } }, 'add up to 40 %'],
    [{ use: { name: 'mine', shares: ['much'] } }, 'use.shares'],
    [{ money: { currency: 7 } }, 'money.currency'],
    [{ money: { hourlyRate: -5 } }, 'money.hourlyRate'],
  ])('%j is refused with its place', (member, message) => {
    expect(() => readPackage(withMember(member))).toThrow(message);
  });

  test('parents that go in a circle are refused with their names', () => {
    const setups = [newSetup('A', 'a'), newSetup('B', 'b', 'C'), newSetup('C', 'c', 'B')];
    expect(() => readPackage(writePackage(job({ setups })))).toThrow('B from C from B');
  });
});
