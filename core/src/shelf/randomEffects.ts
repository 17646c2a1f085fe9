import { studentT } from '../statistics/distributions.ts';

/** One study: an estimate and its variance, in one unit of one's own choice (log-percent on a shelf). */
export interface Study {
  readonly estimate: number;
  readonly variance: number;
}

/** Several studies of one thing together. */
export interface RandomEffects {
  /** Number of studies. */
  readonly k: number;
  /** Average effect μ. */
  readonly mean: number;
  /** Its standard error by Hartung, Knapp, Sidik and Jonkman, the factor never below 1. */
  readonly standardError: number;
  /** 95 % interval of the average, t on k − 1; null under three studies. */
  readonly low: number | null;
  readonly high: number | null;
  /** What one further study's own effect may be, 95 %; null under three studies. */
  readonly nextLow: number | null;
  readonly nextHigh: number | null;
  /** Variance between studies τ² (restricted maximum likelihood). */
  readonly betweenVariance: number;
  /** Cochran's Q, and the share of the spread that scatter within studies does not explain (I², 0–1). */
  readonly q: number;
  readonly inconsistency: number;
  /** Weights of the studies, summing to 1, in their order. */
  readonly weights: readonly number[];
}

/** Weighted mean and what belongs to it, for a given variance between studies. */
function pooled(studies: readonly Study[], betweenVariance: number) {
  const w = studies.map((s) => 1 / (s.variance + betweenVariance));
  const sum = w.reduce((a, b) => a + b, 0);
  const mean = studies.reduce((a, s, i) => a + w[i]! * s.estimate, 0) / sum;
  const q = studies.reduce((a, s, i) => a + w[i]! * (s.estimate - mean) ** 2, 0);
  return { w, sum, mean, q };
}

/** Where a falling function is 0, from 0 upwards; 0 where it begins at or below 0. */
function rootFromZero(f: (x: number) => number, scale: number): number {
  if (!(f(0) > 0)) return 0;
  let [low, high] = [0, scale];
  while (f(high) > 0) [low, high] = [high, 2 * high];
  for (let i = 0; i < 200 && high - low > 1e-13 * high; i += 1) {
    const middle = (low + high) / 2;
    if (f(middle) > 0) low = middle;
    else high = middle;
  }
  return (low + high) / 2;
}

const spread = (studies: readonly Study[]) =>
  Math.max(1e-12, ...studies.map((s) => s.variance), ...studies.map((s) => (s.estimate - studies[0]!.estimate) ** 2));

/**
 * Variance between studies by restricted maximum likelihood: the root of the restricted score (Viechtbauer 2005, Journal of
 * Educational and Behavioral Statistics 30, equation 15; number from memory).
 * @example betweenVarianceReml([{ estimate: 1, variance: 1 }, { estimate: 1.1, variance: 1 }]) // 0
 */
export function betweenVarianceReml(studies: readonly Study[]): number {
  const score = (t2: number) => {
    const { w, sum, mean } = pooled(studies, t2);
    const w2 = w.reduce((a, b) => a + b * b, 0);
    return studies.reduce((a, s, i) => a + w[i]! ** 2 * (s.estimate - mean) ** 2, 0) - sum + w2 / sum;
  };
  return rootFromZero(score, spread(studies));
}

/**
 * The same by Paule and Mandel (1982, Journal of Research of the National Bureau of Standards 87): Q equals its expectation k − 1.
 * It checks the other one: where the two differ much, the studies are few or odd.
 * @example betweenVariancePauleMandel([{ estimate: 0, variance: 1 }, { estimate: 4, variance: 1 }]) // 7
 */
export function betweenVariancePauleMandel(studies: readonly Study[]): number {
  return rootFromZero((t2) => pooled(studies, t2).q - (studies.length - 1), spread(studies));
}

/**
 * Studies of one effect that differs between them: the average with the interval of Hartung and Knapp (2001) and Sidik and Jonkman
 * (2002), whose factor is never taken below 1 (Röver, Knapp and Friede 2015), and the prediction interval for one further study,
 * μ ± t(0.975, k − 2)·√(τ² + SE²) (Higgins, Thompson and Spiegelhalter 2009).
 *
 * @throws RangeError without studies, or for a variance that is not above 0
 * @example randomEffects([{ estimate: 1, variance: 1 }]).low // null
 */
export function randomEffects(studies: readonly Study[]): RandomEffects {
  const k = studies.length;
  if (k === 0) throw new RangeError('There is no study.');
  if (!studies.every((s) => s.variance > 0 && Number.isFinite(s.estimate)))
    throw new RangeError('Every study needs an estimate and a variance above 0.');
  const betweenVariance = k > 1 ? betweenVarianceReml(studies) : 0;
  const { w, sum, mean, q: own } = pooled(studies, betweenVariance);
  const factor = k > 1 ? Math.max(1, own / (k - 1)) : 1;
  const standardError = Math.sqrt(factor / sum);
  const { q } = pooled(studies, 0);
  const half = k > 2 ? studentT(0.975, k - 1) * standardError : null;
  const next = k > 2 ? studentT(0.975, k - 2) * Math.sqrt(betweenVariance + standardError ** 2) : null;
  return {
    ...{ k, mean, standardError, betweenVariance, q },
    low: half === null ? null : mean - half,
    high: half === null ? null : mean + half,
    nextLow: next === null ? null : mean - next,
    nextHigh: next === null ? null : mean + next,
    inconsistency: q > 0 ? Math.max(0, (q - (k - 1)) / q) : 0,
    weights: w.map((v) => v / sum),
  };
}
