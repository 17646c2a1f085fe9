import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { newSetup } from './defaults.ts';
import type { Setup } from './job.ts';
import { carriedAlong, carriedByPulls } from './permanent.ts';

const setup = (id: string, parent: string | null, more: Partial<Setup> = {}): Setup => ({
  ...newSetup(id, id, parent ?? undefined),
  ...more,
});
const A = setup('A', null);

describe('what cannot come off again', () => {
  test('is on whatever runs later, unless that is made from it', () => {
    const setups = [A, setup('B', 'A', { permanent: true }), setup('C', 'A'), setup('D', 'B')];
    const check = setup('A2', 'A', { returnsTo: 'A' });
    expect(carriedAlong(setups, 'A', ['A', 'C', 'B', 'D'])).toEqual([]);
    expect(carriedAlong(setups, 'A', ['A', 'B', 'C', 'C', 'D'])).toEqual([{ setup: 'C', carries: 'B' }]);
    expect(carriedAlong([...setups, check], 'A', ['A', 'B', 'A2'])).toEqual([{ setup: 'A2', carries: 'B' }]);
    // What is made from it brings it along.
    expect(carriedAlong(setups, 'A', ['A', 'D', 'C'])).toEqual([{ setup: 'C', carries: 'B' }]);
  });

  test('by the time of the pulls, not by their place in the job', () => {
    const setups = [A, setup('B', 'A', { permanent: true }), setup('C', 'A')];
    const pull = (setupId: string, hour: number) => ({ setupId, startedAt: `2026-05-04T0${hour}:00:00Z` });
    const job = (pulls: { setupId: string; startedAt: string | null }[]) => ({
      ...{ setups, pulls, question: { baselineSetup: 'A' } },
    });
    expect(carriedByPulls(job([pull('A', 1), pull('B', 3), pull('C', 2)]))).toEqual([]);
    expect(carriedByPulls(job([pull('A', 1), pull('C', 3), pull('B', 2)]))).toEqual([{ setup: 'C', carries: 'B' }]);
    expect(carriedByPulls(job([pull('A', 1), { setupId: 'B', startedAt: null }, pull('C', 1)]))).toHaveLength(1);
  });

  test('nothing is carried where nothing stays, and nothing that is carried is in the own line (property)', () => {
    const trees = fc.array(fc.tuple(fc.nat(9), fc.boolean(), fc.nat(9)), { minLength: 1, maxLength: 7 });
    fc.assert(
      fc.property(trees, (list) => {
        const id = (i: number) => String.fromCharCode(65 + i);
        const setups = [
          A,
          ...list.map(([parent, permanent], i) => setup(id(i + 1), id(parent % (i + 1)), { permanent })),
        ];
        const order = ['A', ...list.map(([, , k]) => id(k % setups.length))];
        const found = carriedAlong(setups, 'A', order);
        const loose = setups.map((s) => ({ ...s, permanent: false }));
        expect(carriedAlong(loose, 'A', order)).toEqual([]);
        const parents = (of: string): string[] => {
          const parent = setups.find((s) => s.id === of)?.parentId ?? null;
          return parent === null ? [of] : [of, ...parents(parent)];
        };
        for (const { setup: own, carries } of found) {
          expect(setups.find((s) => s.id === carries)!.permanent).toBe(true);
          expect(parents(own)).not.toContain(carries);
          const first = order.findIndex((o) => parents(o).includes(carries));
          expect(order.lastIndexOf(own)).toBeGreaterThan(first);
        }
      }),
    );
  });
});
