import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { DEFAULT_CONSTANTS } from './constants.ts';
import { candidateWeights, estimateContrast } from './contrast.ts';
import { designOf, fitPulls, pullNoise, type Design } from './fit.ts';
import { morePullsNeeded, plannedPulls, smallestGainFound, type PlannedRound } from './planning.ts';
import type { EnginePull } from './rounds.ts';

const plan = (text: string): PlannedRound[] =>
  text.split(' ').map((part) => ({ side: part.startsWith('A') ? 0 : 1, counted: Number(part.slice(1)) }));
const finds = (text: string, s = 0.5) => smallestGainFound(plan(text), s, DEFAULT_CONSTANTS);

describe('what a plan can find', () => {
  test('time is worse than scatter: five pulls with a return beat twenty without', () => {
    expect(finds('A2 B2 A1')).toBeLessThan(finds('A10 B10'));
  });

  test('a steadier car finds smaller gains (property)', () => {
    fc.assert(
      fc.property(
        fc.constantFrom('A3 B3', 'A3 B3 A2', 'A5 B5 A5', 'A3 B3 A3 B3 A3'),
        fc.double({ min: 0.1, max: 1, noNaN: true }),
        (text, s) => {
          expect(finds(text, s)).toBeLessThan(finds(text, s * 1.2));
        },
      ),
      { numRuns: 30 },
    );
  });

  test('five minutes a pull, 65 from the last counted to the first of the next round', () => {
    const minutes = plannedPulls(plan('A2 B2')).map((p) => Math.round(p.hours * 60));
    expect(minutes).toEqual([0, 5, 70, 75]);
  });
});

/** Pulls of rounds such as [0, 3] with an effect of the candidate, in log-percent, without scatter. */
function fitted(
  rounds: readonly (readonly [number, number])[],
  effect: number,
  more: { drift?: number; heat?: number } = {},
) {
  const pulls: EnginePull[] = [];
  rounds.forEach(([side, n], r) => {
    for (let k = 0; k < n; k += 1)
      pulls.push({ id: `${r}.${k}`, side, roundKey: `${r}`, hours: r * 1.2 + k / 12, startC: 10 + 3 * k });
  });
  const y = pulls.map(
    (p) => 500 + (p.side === 1 ? effect : 0) + (more.drift ?? 0) * p.hours - (more.heat ?? 0.1) * p.startC!,
  );
  const design = designOf(pulls, DEFAULT_CONSTANTS, { heat: 'adjusted' });
  const fit = fitPulls(design, y, 0.5, 6);
  return { design, fit, e: estimateContrast(fit, candidateWeights(fit, 1)!) };
}

describe('the fit on days without scatter', () => {
  test('a clean day gives the effect back (property)', () => {
    fc.assert(
      fc.property(fc.double({ min: -8, max: 8, noNaN: true }), (effect) => {
        const { e } = fitted(
          [
            [0, 3],
            [1, 3],
            [0, 2],
          ],
          effect,
        );
        expect(e.estimate).toBeCloseTo(effect, 6);
        expect(e.low).toBeLessThan(effect);
        expect(e.high).toBeGreaterThan(effect);
      }),
      { numRuns: 40 },
    );
  });

  test('a steady drift is taken out when the first setup comes back, and mostly not without', () => {
    const bracketed = fitted(
      [
        [0, 3],
        [1, 3],
        [0, 3],
      ],
      1,
      { drift: 0.4 },
    );
    const open = fitted(
      [
        [0, 3],
        [1, 3],
      ],
      1,
      { drift: 0.4 },
    );
    expect(Math.abs(bracketed.e.estimate - 1)).toBeLessThan(0.05);
    expect(Math.abs(open.e.estimate - 1)).toBeGreaterThan(0.25);
    expect(open.e.se).toBeGreaterThan(1.5 * bracketed.e.se);
    expect(bracketed.fit.drift).toBeCloseTo(0.4 * 2.4, 6);
    expect(open.fit.drift).toBe(0);
  });

  test('the drift allowance saturates without a bracket and not with one', () => {
    expect(
      fitted(
        [
          [0, 3],
          [0, 3],
          [1, 3],
          [1, 3],
        ],
        0,
      ).design.sd,
    ).toBeLessThan(DEFAULT_CONSTANTS.sd);
    expect(
      fitted(
        [
          [0, 3],
          [1, 3],
          [0, 3],
        ],
        0,
      ).design.sd,
    ).toBe(DEFAULT_CONSTANTS.sd);
  });

  test('an allowance of nothing drops its column', () => {
    const { design } = fitted(
      [
        [0, 3],
        [1, 3],
      ],
      0,
    );
    const without = (more: object): Design =>
      designOf(design.pulls, { ...DEFAULT_CONSTANTS, ...more }, { heat: 'adjusted' });
    expect(without({}).columns.columns).toBe(6);
    expect(without({ sh: 0 }).columns.columns).toBe(5);
    expect(without({ sd: 0 }).columns.columns).toBe(5);
    expect(without({ tau: 0 }).columns.columns).toBe(4);
  });

  test('one pull a round tells nothing of the noise: the bay’s prior stands alone', () => {
    const { design } = fitted(
      [
        [0, 1],
        [1, 1],
        [0, 1],
      ],
      0,
    );
    const noise = pullNoise(design, [1, 2, 3], 0.5, 6);
    expect(noise).toMatchObject({ d: 0, nu: 6 });
    expect(noise.moderated).toBeCloseTo(0.25, 12);
    expect(noise.s2).toBeNaN();
  });

  test('history never pushes the noise below today’s own (property)', () => {
    const { design } = fitted(
      [
        [0, 4],
        [1, 4],
      ],
      0,
    );
    fc.assert(
      fc.property(fc.array(fc.double({ min: -3, max: 3, noNaN: true }), { minLength: 8, maxLength: 8 }), (scatter) => {
        const noise = pullNoise(design, scatter, 0.5, 6);
        expect(noise.moderated).toBeGreaterThanOrEqual(noise.s2 - 1e-12);
      }),
    );
  });

  test('unstrapping widens every interval', () => {
    const { design } = fitted(
      [
        [0, 3],
        [1, 3],
        [0, 2],
      ],
      0,
    );
    const se = (remounted: boolean) => {
      const own = designOf(design.pulls, DEFAULT_CONSTANTS, { heat: 'adjusted', remounted });
      const fit = fitPulls(
        own,
        design.pulls.map(() => 500),
        0.5,
        6,
      );
      return estimateContrast(fit, candidateWeights(fit, 1)!).se;
    };
    expect(se(true)).toBeGreaterThan(se(false));
  });
});

describe('what would settle an open question', () => {
  const ask = (estimate: number, meaningfulPercent = 1, s = 0.4) => {
    const { design } = fitted(
      [
        [0, 3],
        [1, 3],
      ],
      estimate,
    );
    return morePullsNeeded({ design, side: 1, estimate, s, drift: 0, meaningfulPercent, remounted: false });
  };

  test('a return check is the first thing that helps', () => {
    expect(ask(1.2)).toMatchObject({ pulls: 3, rounds: [{ side: 0, counted: 3 }] });
  });

  test('when nothing within reach helps, it says so', () => {
    expect(ask(0.02, 0.05)).toEqual({ pulls: null, rounds: [], halfWidth: null });
    expect(ask(0.5, 0.1, 2)).toEqual({ pulls: null, rounds: [], halfWidth: null });
  });

  test('no effect at all can be settled as no meaningful change', () => {
    const more = ask(0, 1.5);
    expect(more.pulls).not.toBeNull();
    expect(more.halfWidth!).toBeGreaterThan(0);
  });
});
