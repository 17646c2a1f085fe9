import { normalDistribution } from '../../statistics/distributions.ts';
import type { Mixture } from './fit.ts';
import { nodeAt } from './model.ts';
import type { Prepared } from './prepare.ts';

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
export function mixtureBelow({ weights, means, variances }: Mixture, x: number): number {
  let below = 0;
  for (let i = 0; i < weights.length; i += 1)
    if (weights[i]! > 0) below += weights[i]! * normalDistribution((x - means[i]!) / Math.sqrt(variances[i]!));
  return below;
}

/** The mean of the weighed sum. */
export function mixtureMean({ weights, means }: Mixture): number {
  let mean = 0;
  for (let i = 0; i < weights.length; i += 1) mean += weights[i]! * means[i]!;
  return mean;
}

const CLOSE = 1e-8;
const SQRT_2PI = Math.sqrt(2 * Math.PI);

/**
 * Quantile of the weighed sum: Newton's method inside a bracket that is halved where a step would leave it.
 * @param probability inside 0–1
 */
export function mixtureQuantile(mixture: Mixture, probability: number): number {
  const { weights, means, variances } = mixture;
  let low = Infinity;
  let high = -Infinity;
  for (let i = 0; i < weights.length; i += 1) {
    const reach = 9 * Math.sqrt(variances[i]!);
    low = Math.min(low, means[i]! - reach);
    high = Math.max(high, means[i]! + reach);
  }
  let x = mixtureMean(mixture);
  for (let step = 0; step < 200 && high - low > CLOSE; step += 1) {
    let below = 0;
    let density = 0;
    for (let i = 0; i < weights.length; i += 1) {
      const weight = weights[i]!;
      if (weight === 0) continue;
      const sd = Math.sqrt(variances[i]!);
      const u = (x - means[i]!) / sd;
      below += weight * normalDistribution(u);
      density += (weight * Math.exp(-0.5 * u * u)) / (sd * SQRT_2PI);
    }
    if (below > probability) high = x;
    else low = x;
    const next = x - (below - probability) / density;
    const inside = next > low && next < high;
    const moved = inside ? next : (low + high) / 2;
    if (Math.abs(moved - x) < CLOSE * 1e-2) return moved;
    x = moved;
  }
  return x;
}

/** Cells of `merged`: ratio of neighbouring spreads, and share of the spread in the mean. */
const CELL = 1.06;
const CELL_SHARE = 0.2;

/**
 * Components whose spread agrees within a few per cent and whose means lie within a fifth of it are put together by their moments: a few
 * hundred in place of thousands. Ends change by under 3e-4.
 */
export function merged(mixture: Mixture): Mixture {
  const { weights, means, variances, cases, logEvidence, logScale } = mixture;
  const centre = mixtureMean(mixture);
  const cells = new Map<string, { weight: number; mean: number; square: number }>();
  for (let i = 0; i < weights.length; i += 1) {
    const weight = weights[i]!;
    if (weight === 0) continue;
    const level = Math.round(Math.log(Math.sqrt(variances[i]!)) / Math.log(CELL));
    const key = `${level} ${Math.round((means[i]! - centre) / (CELL_SHARE * CELL ** level))}`;
    const cell = cells.get(key) ?? { weight: 0, mean: 0, square: 0 };
    cell.weight += weight;
    cell.mean += weight * means[i]!;
    cell.square += weight * (variances[i]! + means[i]! ** 2);
    cells.set(key, cell);
  }
  const list = [...cells.values()].map(({ weight, mean, square }) => ({
    weight,
    mean: mean / weight,
    variance: square / weight - (mean / weight) ** 2,
  }));
  return {
    weights: Float64Array.from(list, (c) => c.weight),
    means: Float64Array.from(list, (c) => c.mean),
    variances: Float64Array.from(list, (c) => c.variance),
    ...{ cases, logEvidence, logScale },
  };
}

/** Weights of the nodes of a mixture, all cases of a node together. */
export function nodeWeights({ weights, cases }: Mixture): Float64Array {
  const nodes = new Float64Array(weights.length / cases);
  for (let i = 0; i < weights.length; i += 1) nodes[Math.floor(i / cases)]! += weights[i]!;
  return nodes;
}

/** Reads the answer off a mixture. @param exact false: off the merged components, which is quicker */
export function answerOf({ model, pulls }: Prepared, mixture: Mixture, exact = false): Answer {
  const read = exact ? mixture : merged(mixture);
  const nodes = nodeWeights(mixture);
  const logs = { scatter: 0, mount: 0, drift: 0 };
  let scatterToday = 0;
  let widestScatter = 0;
  model.mountNodes.forEach((mount, t) =>
    model.driftNodes.forEach((drift, s) =>
      model.scatterNodes.forEach((scatter, k) => {
        const weight = nodes[nodeAt(model, t, s, k)]!;
        logs.scatter += weight * Math.log(scatter);
        logs.mount += weight * Math.log(mount);
        logs.drift += weight * Math.log(drift);
        scatterToday += weight * scatter;
        if (k === model.scatterNodes.length - 1) widestScatter += weight;
      }),
    ),
  );
  const badPulls = pulls.map((_, i) => {
    let weight = 0;
    for (let at = i + 1; at < mixture.weights.length; at += mixture.cases) weight += mixture.weights[at]!;
    return weight;
  });
  const below = mixtureBelow(read, 0);
  return {
    estimate: mixtureMean(mixture),
    low: mixtureQuantile(read, 0.025),
    high: mixtureQuantile(read, 0.975),
    low90: mixtureQuantile(read, 0.05),
    high90: mixtureQuantile(read, 0.95),
    p: 2 * Math.min(below, 1 - below),
    geometric: { scatter: Math.exp(logs.scatter), mount: Math.exp(logs.mount), drift: Math.exp(logs.drift) },
    ...{ scatterToday, badPulls, widestScatter, logEvidence: mixture.logEvidence },
  };
}
