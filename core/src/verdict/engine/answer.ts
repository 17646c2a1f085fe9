import { normalDistribution, normalQuantile } from '../../statistics/distributions.ts';
import { cellsOf, type Mixture, type WeighedNormals } from './fit.ts';
import { nodeAt, type EngineModel } from './model.ts';
import type { DayParts } from './parts.ts';

const { abs, exp, floor, log, max, min, round, sqrt } = Math;

/** What a day says of a contrast, log-percent. */
export interface Answer {
  readonly estimate: number;
  readonly low: number;
  readonly high: number;
  readonly low90: number;
  readonly high90: number;
  /** Two-sided: how much of the distribution lies on the far side of zero, doubled. */
  readonly p: number;
  /** Pull scatter of the day, per cent: Σ W·σ. */
  readonly scatterToday: number;
  /** Geometric means of the weights of σ, τ and s, per cent and per cent per hour. */
  readonly geometric: { readonly scatter: number; readonly mount: number; readonly drift: number };
  /** How likely each pull is a bad one. */
  readonly badPulls: readonly number[];
  /** Weight of the last scatter node: over 0.2 the pulls scatter by more than 3 %. */
  readonly widestScatter: number;
  readonly logEvidence: number;
}

/** Distribution function of the weighed sum at x. */
export function mixtureBelow({ weights, means, variances }: WeighedNormals, x: number): number {
  let below = 0;
  for (let i = 0; i < weights.length; i += 1)
    if (weights[i]! > 0) below += weights[i]! * normalDistribution((x - means[i]!) / sqrt(variances[i]!));
  return below;
}

/** The mean of the weighed sum. */
export function mixtureMean({ weights, means }: WeighedNormals): number {
  let mean = 0;
  for (let i = 0; i < weights.length; i += 1) mean += weights[i]! * means[i]!;
  return mean;
}

/** Where the quantile would lie if the sum were one normal distribution. */
function likelyQuantile(mixture: WeighedNormals, probability: number): number {
  const mean = mixtureMean(mixture);
  let variance = 0;
  for (let i = 0; i < mixture.weights.length; i += 1)
    variance += mixture.weights[i]! * (mixture.variances[i]! + (mixture.means[i]! - mean) ** 2);
  return mean + sqrt(variance) * normalQuantile(probability);
}

const CLOSE = 1e-8;
/** Beyond so many standard deviations nothing is left of a normal distribution, to 1e-18. */
const FAR = 9;
const SQRT_2PI = sqrt(2 * Math.PI);

/**
 * Quantile of the weighed sum: Newton's method inside a bracket that is halved where a step would leave it.
 * @param probability inside 0–1
 */
export function mixtureQuantile(mixture: WeighedNormals, probability: number): number {
  const { weights, means, variances } = mixture;
  let low = Infinity;
  let high = -Infinity;
  for (let i = 0; i < weights.length; i += 1) {
    const reach = 9 * sqrt(variances[i]!);
    low = min(low, means[i]! - reach);
    high = max(high, means[i]! + reach);
  }
  let x = likelyQuantile(mixture, probability);
  if (!(x > low && x < high)) x = (low + high) / 2;
  for (let step = 0; step < 200 && high - low > CLOSE; step += 1) {
    let below = 0;
    let density = 0;
    for (let i = 0; i < weights.length; i += 1) {
      const weight = weights[i]!;
      if (weight === 0) continue;
      const sd = sqrt(variances[i]!);
      const u = (x - means[i]!) / sd;
      if (u > FAR || u < -FAR) {
        if (u > 0) below += weight;
        continue;
      }
      below += weight * normalDistribution(u);
      density += (weight * exp(-0.5 * u * u)) / (sd * SQRT_2PI);
    }
    if (below > probability) high = x;
    else low = x;
    const next = x - (below - probability) / density;
    const inside = next > low && next < high;
    const moved = inside ? next : (low + high) / 2;
    if (abs(moved - x) < CLOSE * 1e-2) return moved;
    x = moved;
  }
  return x;
}

/** More than there are cells of one spread. */
const KEYS_A_LEVEL = 1e6;
/** Components lighter than this move no digit that is shown. */
const NOTHING = 1e-11;
const LIGHT = 1e-6;

/**
 * Components whose spread agrees within a few per cent and whose means lie within a fifth of it are put together by their moments: a few
 * hundred in place of thousands. Ends change by under 3e-4.
 * @param quick cells twice as wide, and components under a millionth left out: ends change by under a hundredth of the half-width
 */
export function merged(mixture: Mixture, quick = false): Mixture {
  const { weights, means, variances, cases, logEvidence, logScale } = mixture;
  const { levels, finer } = mixture.cells ?? cellsOf(variances);
  const [least, wide] = quick ? [LIGHT, 2] : [NOTHING, 1];
  const centre = mixtureMean(mixture);
  const places = new Map<number, number>();
  const sums: number[] = [];
  for (let i = 0; i < weights.length; i += 1) {
    const weight = weights[i]!;
    if (weight < least) continue;
    const key = round(levels[i]! / wide) * KEYS_A_LEVEL + round(((means[i]! - centre) * finer[i]!) / wide);
    let at = places.get(key);
    if (at === undefined) {
      at = sums.length;
      places.set(key, at);
      sums.push(0, 0, 0);
    }
    sums[at]! += weight;
    sums[at + 1]! += weight * means[i]!;
    sums[at + 2]! += weight * (variances[i]! + means[i]! ** 2);
  }
  const n = sums.length / 3;
  const own = (of: (weight: number, mean: number, square: number) => number) =>
    Float64Array.from({ length: n }, (_, i) => of(sums[3 * i]!, sums[3 * i + 1]!, sums[3 * i + 2]!));
  return {
    weights: own((weight) => weight),
    means: own((weight, mean) => mean / weight),
    variances: own((weight, mean, square) => square / weight - (mean / weight) ** 2),
    ...{ cells: null, cases, logEvidence, logScale },
  };
}

/** The mixture when it is known which case holds: 0 all sound, i pull i bad. Over all nodes. */
export function caseAlone(mixture: Mixture, which: number): Mixture {
  const { weights, means, variances, cases, logEvidence } = mixture;
  const nodes = weights.length / cases;
  const own = (values: Float64Array) => Float64Array.from({ length: nodes }, (_, i) => values[i * cases + which]!);
  const raw = own(weights);
  const all = raw.reduce((a, b) => a + b, 0);
  return {
    weights: all > 0 ? raw.map((w) => w / all) : raw.fill(1 / nodes),
    ...{ means: own(means), variances: own(variances), cells: null, cases: 1, logEvidence },
    logScale: mixture.logScale + log(all),
  };
}

/** Weights of the nodes of a mixture, all cases of a node together. */
export function nodeWeights({ weights, cases }: Mixture): Float64Array {
  const nodes = new Float64Array(weights.length / cases);
  for (let i = 0; i < weights.length; i += 1) nodes[floor(i / cases)]! += weights[i]!;
  return nodes;
}

export interface AnswerOptions {
  /** Of the interval; 0.95 unless said otherwise. The other one is always of 90 %. */
  readonly confidence?: number;
  /** Off every component in place of the merged ones, which is slower. */
  readonly exact?: boolean;
}

/** What a day says of its noise: it does not depend on the contrast. */
export type DayNoise = Pick<Answer, 'scatterToday' | 'geometric' | 'widestScatter'>;

/** Reads the noise off a mixture over all nodes. */
export function noiseOf(model: EngineModel, mixture: Mixture): DayNoise {
  const nodes = nodeWeights(mixture);
  const logs = { scatter: 0, mount: 0, drift: 0 };
  let scatterToday = 0;
  let widestScatter = 0;
  model.mountNodes.forEach((mount, t) =>
    model.driftNodes.forEach((drift, s) =>
      model.scatterNodes.forEach((scatter, k) => {
        const weight = nodes[nodeAt(model, t, s, k)]!;
        logs.scatter += weight * log(scatter);
        logs.mount += weight * log(mount);
        logs.drift += weight * log(drift);
        scatterToday += weight * scatter;
        if (k === model.scatterNodes.length - 1) widestScatter += weight;
      }),
    ),
  );
  return {
    geometric: { scatter: exp(logs.scatter), mount: exp(logs.mount), drift: exp(logs.drift) },
    ...{ scatterToday, widestScatter },
  };
}

/** How likely each pull is a bad one, over all nodes. */
export function badPullsIn({ weights, cases }: Mixture): number[] {
  return Array.from({ length: cases - 1 }, (_, i) => {
    let likely = 0;
    for (let at = i + 1; at < weights.length; at += cases) likely += weights[at]!;
    return likely;
  });
}

/** Reads the answer off a mixture over all nodes. */
export function answerOf(
  { model }: Pick<DayParts, 'model'>,
  mixture: Mixture,
  { confidence = 0.95, exact = false }: AnswerOptions = {},
): Answer {
  const read = exact ? mixture : merged(mixture);
  const below = mixtureBelow(read, 0);
  return {
    estimate: mixtureMean(mixture),
    low: mixtureQuantile(read, (1 - confidence) / 2),
    high: mixtureQuantile(read, (1 + confidence) / 2),
    low90: mixtureQuantile(read, 0.05),
    high90: mixtureQuantile(read, 0.95),
    p: max(0, 2 * min(below, 1 - below)),
    ...noiseOf(model, mixture),
    badPulls: badPullsIn(mixture),
    logEvidence: mixture.logEvidence,
  };
}
