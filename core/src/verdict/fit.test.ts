import { describe, expect, test } from '@jest/globals';
import { DEFAULT_CONSTANTS, truePercent } from './constants.ts';
import { candidateWeights, estimateContrast } from './contrast.ts';
import { designOf, fitPulls, type DesignOptions } from './fit.ts';
import { smallestGainFound, morePullsNeeded, type PlannedRound } from './planning.ts';
import type { EnginePull } from './rounds.ts';

interface Row {
  side: number;
  round: string;
  power: number;
  start: number | null;
  minutes: number;
  shift?: number;
}
const rows = (
  side: number,
  round: string,
  power: number[],
  start: (number | null)[],
  minutes: number[],
  shift = 0,
): Row[] => power.map((p, i) => ({ side, round, power: p, start: start[i]!, minutes: minutes[i]!, shift }));

const A = rows(0, 'A', [238.2, 237.1, 236.6], [44, 48, 51], [0, 5, 10]);
const B = rows(1, 'B', [243.1, 241.9, 241.6], [46, 50, 53], [75, 80, 85]);
const A2 = rows(0, 'A2', [237.9, 236.5], [45, 49], [150, 155]);
const lowered = (by: number) => B.map((r) => ({ ...r, shift: -by }));

function judge(input: Row[], options: DesignOptions = { heat: 'adjusted' }, side = 1) {
  const pulls: EnginePull[] = input.map((r, i) => ({
    id: `${i}`,
    side: r.side,
    roundKey: r.round,
    hours: r.minutes / 60,
    startC: r.start,
  }));
  const design = designOf(pulls, DEFAULT_CONSTANTS, options);
  const fit = fitPulls(
    design,
    input.map((r) => 100 * Math.log(r.power) + (r.shift ?? 0)),
    0.5,
    6,
  );
  return { design, fit, e: estimateContrast(fit, candidateWeights(fit, side)!) };
}

/** Six significant digits, as the specification prints them. */
const six = (value: number, expected: number) =>
  expect(Math.abs(value - expected)).toBeLessThan(6e-6 * Math.max(1e-3, Math.abs(expected)));

describe('test vectors of the verdict engine (two independent implementations agree on them)', () => {
  test('V1, A3 B3', () => {
    const { design, fit, e } = judge([...A, ...B]);
    six(design.xMean, 48.666667);
    six(design.uMean, 0.70833333);
    six(fit.noise.sxx, 49.3333333);
    six(fit.noise.sxy, 0.304389);
    six(fit.noise.syy, 0.0196803);
    six(fit.noise.lambda, 51.0204);
    six(fit.noise.slope, 0.00303316);
    six(fit.noise.rss, 0.0187571);
    six(fit.noise.s2, 0.00468927);
    six(fit.noise.moderated, 0.151876);
    expect([fit.noise.d, fit.noise.nu]).toEqual([4, 10]);
    six(e.estimate, 2.2291);
    six(0.1 - fit.theta[design.heatColumn]!, 0.0962967);
    six(fit.theta[design.driftColumn]!, 0.00591866);
    six(e.v, 0.451387);
    six(e.vn, 0.113038);
    six(e.se, 0.671853);
    six(e.f, 0.250425);
    six(e.df, 29.0999);
    six(e.low, 0.855211);
    six(e.high, 3.60299);
    six(e.low90, 1.08767);
    six(e.high90, 3.37054);
    six(e.p, 0.00244451);
    const gm = (238.2 * 237.1 * 236.6) ** (1 / 3);
    six((gm * truePercent(e.estimate)) / 100, 5.34903);
    six((gm * truePercent(e.low)) / 100, 2.03811);
  });

  test('V2, A3 B3 A2: the return check narrows the interval', () => {
    const { design, fit, e } = judge([...A, ...B, ...A2]);
    six(fit.noise.sxx, 57.3333333);
    six(fit.noise.sxy, -0.076053);
    six(fit.noise.slope, -0.000701896);
    six(fit.noise.moderated, 0.139793);
    six(e.estimate, 2.2986);
    six(0.1 - fit.theta[design.heatColumn]!, 0.100192);
    six(fit.theta[design.driftColumn]!, -0.0387478);
    six(e.v, 0.118039);
    six(e.vn, 0.081361);
    six(fit.drift, -0.108855);
    six((0.25 * fit.drift) ** 2, 0.000740594);
    six(e.vt, 0.118779);
    six(e.df, 21.0014);
    six(e.low, 1.58187);
    six(e.high, 3.01532);
    six(e.low90, 1.70556);
    six(e.high90, 2.89164);
    six(e.p, 1.33341e-6);
  });

  test.each([
    ['V3', 1.2, 1.0986, 0.381875, 1.81532],
    ['V6', 1.7, 0.598598, -0.118125, 1.31532],
  ])('%s: V2 with B lowered by %d', (_, by, estimate, low, high) => {
    const { e } = judge([...A, ...lowered(by), ...A2]);
    six(e.estimate, estimate);
    six(e.low, low);
    six(e.high, high);
  });

  test('V4: inside ±1 % at 90 %', () => {
    const { e } = judge([...A, ...lowered(100 * Math.log(241.9 / 237.1) + 0.15), ...A2]);
    six(e.estimate, 0.144355);
    six(e.low90, -0.448686);
    six(e.high90, 0.737396);
  });

  test('V5: a day noisier than the bay is never talked quiet', () => {
    const { fit, e } = judge([
      ...rows(0, 'A', [238.2, 234, 240.1], [44, 48, 51], [0, 5, 10]),
      ...rows(1, 'B', [243.1, 239.5, 246], [46, 50, 53], [75, 80, 85]),
    ]);
    six(fit.noise.rss, 7.58231);
    six(fit.noise.moderated, 1.89558);
    six(e.estimate, 2.38081);
    six(e.v, 1.63898);
    six(e.vn, 1.2688);
    six(e.df, 16.0052);
    six(e.low, -0.333078);
    six(e.high, 5.0947);
    six(e.p, 0.081412);
  });

  test('V7: without start temperatures, and meant to cool', () => {
    const cold = [...A, ...B].map((r) => ({ ...r, start: null }));
    const missing = judge(cold, { heat: 'missing' });
    six(missing.fit.noise.moderated, 0.195214);
    six(missing.e.estimate, 2.1797);
    six(missing.e.se, 0.801678);
    six(missing.e.df, 28.247);
    six(missing.e.low, 0.538183);
    six(missing.e.high, 3.82121);
    const cooling = judge([...A, ...B], { heat: 'meant-to-change' });
    six(cooling.e.se, 0.694757);
    six(cooling.e.df, 29.7186);
    six(cooling.e.low, 0.760252);
    six(cooling.e.high, 3.59914);
  });

  test('V8: the drift allowance saturates without a bracket', () => {
    const { design, e } = judge([...A, ...B.map((r, i) => ({ ...r, minutes: 300 + 5 * i }))]);
    six(design.sd, 0.18);
    six(e.estimate, 2.23156);
    six(e.se, 0.976004);
    six(e.df, 24.7298);
    six(e.low, 0.220331);
    six(e.high, 4.24279);
  });

  test('V9: two candidates share one fit', () => {
    const C = rows(2, 'C', [240.3, 239.6, 239], [45, 48, 52], [150, 155, 160]);
    const late = A2.map((r, i) => ({ ...r, minutes: 225 + 5 * i }));
    const all = [...A, ...B, ...C, ...late];
    const b = judge(all);
    six(b.fit.noise.rss, 0.0516245);
    six(b.fit.noise.moderated, 0.119356);
    six(b.e.estimate, 2.26966);
    six(b.e.se, 0.324808);
    six(b.e.df, 25.9895);
    six(b.e.low, 1.602);
    six(b.e.high, 2.93733);
    const c = judge(all, { heat: 'adjusted' }, 2).e;
    six(c.estimate, 1.11121);
    six(c.se, 0.327986);
    six(c.df, 25.3124);
    six(c.low, 0.436132);
    six(c.high, 1.78629);
  });

  test('V6: about six more pulls would settle it, at a planned half-width of .511', () => {
    const { design, fit, e } = judge([...A, ...lowered(1.7), ...A2]);
    const more = morePullsNeeded({
      design,
      side: 1,
      estimate: e.estimate,
      s: Math.sqrt(fit.noise.moderated),
      drift: fit.drift,
      meaningfulPercent: 1,
      remounted: false,
    });
    expect(more.pulls).toBe(6);
    expect(more.rounds.map((r) => [r.side, r.counted])).toEqual([
      [1, 3],
      [0, 3],
    ]);
    expect(more.halfWidth).toBeCloseTo(0.511, 3);
  });
});

describe('planning table (docs/method.md; smallest gain found on 80 % of days)', () => {
  const plan = (text: string): PlannedRound[] =>
    text.split(' ').map((part) => ({ side: part.startsWith('A') ? 0 : 1, counted: Number(part.slice(1)) }));
  test.each([
    ['A3 B3', 1.87, 2.1, 2.59],
    ['A5 B5', 2.02, 2.14, 2.41],
    ['A10 B10', 2.5, 2.54, 2.65],
    ['A2 B2 A1', 1.27, 1.74, 2.56],
    ['A3 B3 A2', 1.18, 1.49, 2.07],
    ['A5 B5 A5', 1.19, 1.35, 1.69],
    ['A3 B3 A3 B3 A3', 0.85, 1.06, 1.45],
  ])('%s', (text, ...expected) => {
    [0.3, 0.5, 0.8].forEach((s, i) =>
      expect(smallestGainFound(plan(text), s, DEFAULT_CONSTANTS)).toBeCloseTo(expected[i]!, 2),
    );
  });
});
