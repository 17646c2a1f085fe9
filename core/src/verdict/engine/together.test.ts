import { describe, expect, test } from '@jest/globals';
import { V2 } from '../../test/engineDays.ts';
import { answerOf } from './answer.ts';
import { fitContrast } from './fit.ts';
import { BAND_SCATTER, USUAL_MODEL, usualPrior } from './model.ts';
import { plugIn } from './plugIn.ts';
import { prepare } from './prepare.ts';
import { bandCorrelation, candidateCorrelation, together } from './together.ts';

const prepared = prepare(V2.pulls);
const prior = usualPrior(USUAL_MODEL, BAND_SCATTER);
const base = V2.y;
const band = (more: readonly number[]) => {
  const y = base.map((value, i) => value + more[i]!);
  const mixture = fitContrast(prepared, y, [-1, 1], prior);
  return { y, mixture, weighed: plugIn(prepared, [-1, 1], answerOf(prepared, mixture)) };
};
const none = base.map(() => 0);
const against = [0.3, -0.3, 0, 0.3, -0.3, 0, 0.3, -0.3];

describe('bands and candidates together', () => {
  test('the same band twice correlates more than two that scatter against each other, and neither is certain', () => {
    const same = bandCorrelation(prepared, [band(none), band(none)]);
    const other = bandCorrelation(prepared, [band(against), band(against.map((v) => -v))]);
    expect(same).toBeGreaterThan(other);
    expect(same).toBeLessThan(0.98);
    expect(bandCorrelation(prepared, [band(none)])).toBe(0);
  });

  test('the more bands hold together, the wider each; one alone is pointwise', () => {
    const { mixture } = band(none);
    const answer = answerOf(prepared, mixture, { exact: true });
    const [alone] = together([mixture], 0.5);
    expect(alone!.low).toBeCloseTo(answer.low, 4);
    const widths = [1, 2, 5, 9].map((m) => {
      const [first] = together(
        Array.from({ length: m }, () => mixture),
        0.5,
      );
      return first!.high - first!.low;
    });
    expect(widths).toEqual([...widths].sort((a, b) => a - b));
    expect(new Set(widths.map((w) => w.toFixed(4))).size).toBe(4);
    expect(together([], 0)).toEqual([]);
  });

  test('two candidates against one baseline share half of their variance when all have as many pulls', () => {
    const identity = Float64Array.from({ length: 36 }, (_, i) => (i % 7 === 0 ? 1 : 0));
    const third = 1 / 2;
    const weights = [
      [-third, -third, third, third, 0, 0],
      [-third, -third, 0, 0, third, third],
    ];
    expect(candidateCorrelation(weights, identity)).toBeCloseTo(0.5, 12);
  });
});
