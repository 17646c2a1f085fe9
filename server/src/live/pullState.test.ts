import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { nextPullState, reviewOver, type PullEvent, type PullState } from './pullState.ts';

const events: PullEvent[] = [
  { name: 'begun' },
  { name: 'ended' },
  { name: 'stored', pullId: 'A-1', untilMs: 10_000 },
  { name: 'refused' },
  { name: 'reviewed' },
  { name: 'car-left' },
];
const [begun, ended, stored, refused, reviewed, left] = events as [
  PullEvent,
  PullEvent,
  PullEvent,
  PullEvent,
  PullEvent,
  PullEvent,
];
const after = (...happened: PullEvent[]) => happened.reduce<PullState>(nextPullState, { name: 'waiting' });

describe('where the bay is with its pulls', () => {
  test('a pull is made, stored, looked at, and over', () => {
    expect(after(begun)).toEqual({ name: 'pulling' });
    expect(after(begun, ended)).toEqual({ name: 'storing' });
    const review = after(begun, ended, stored);
    expect(review).toEqual({ name: 'review', pullId: 'A-1', untilMs: 10_000 });
    expect([reviewOver(review, 9_999), reviewOver(review, 10_001)]).toEqual([false, true]);
    expect(after(begun, ended, stored, reviewed)).toEqual({ name: 'waiting' });
  });

  test('the next pull overtakes one that is still being stored, and one whose car left is not looked at', () => {
    expect(after(begun, ended, begun, stored)).toEqual({ name: 'pulling' });
    expect(after(begun, ended, left, stored)).toEqual({ name: 'waiting' });
    expect(after(begun, ended, refused)).toEqual({ name: 'waiting' });
  });

  test('whatever happens, a review is only ever of a pull that was stored right before, and a car that left ends it', () => {
    fc.assert(
      fc.property(fc.array(fc.constantFrom(...events), { maxLength: 30 }), (happened) => {
        const state = after(...happened);
        const done = happened.findLastIndex((e) => e.name === 'stored');
        if (state.name === 'review') {
          expect(done).toBeGreaterThan(-1);
          const since = happened.slice(done + 1).map((e) => e.name);
          expect(since.filter((name) => ['begun', 'reviewed', 'car-left'].includes(name))).toEqual([]);
        }
        expect(nextPullState(state, left).name).toBe('waiting');
        expect(nextPullState(state, begun).name).toBe('pulling');
      }),
      { numRuns: 300 },
    );
  });
});
