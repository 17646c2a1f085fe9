import { nodeWeights } from './answer.ts';
import { aimAt, fit, type Mixture } from './fit.ts';
import { logNormalOver, nodeAt, USUAL_MODEL, usualPrior, type EngineModel, type NodePrior } from './model.ts';
import type { Prepared } from './prepare.ts';

const { exp, log, max, round } = Math;

/**
 * What a finished job teaches about its bay: ln of the summed weights of a node's cases, the node's own prior taken out. One number a
 * node, in the order of `nodeAt`.
 */
export type JobTable = Float64Array;

/** Medians of a bay as they are shown to people, per cent and per cent per hour; the part that keeps the bay unlearned left out. */
export interface BayMedians {
  readonly scatter: number;
  readonly mount: number;
  readonly drift: number;
}

/** What was learned of a bay's noise in one class of measures; a package carries it, so that a verdict has the same digits anywhere. */
export interface LearnedNoise {
  /** p(σ) over the scatter nodes; sums to 1. */
  readonly scatter: readonly number[];
  /** p(τ, s): a row a mount node, a number a drift node; sums to 1. */
  readonly mountDrift: readonly (readonly number[])[];
  readonly medians: BayMedians;
}

/** The prior of a bay and the one of a bay of which nothing was learned, `UNLIKE` of which is in it. */
export interface BayPriors {
  readonly prior: NodePrior;
  readonly usual: NodePrior;
}

/** From so many jobs on a bay is learned from; before, it is a bay like any. */
export const LEAST_JOBS = 5;
/** One day in ten the bay is not itself (judgement). */
export const UNLIKE = 0.1;

const grid = (from: number, step: number, to: number) =>
  Array.from({ length: round((to - from) / step) + 1 }, (_, i) => from + i * step);
const MEDIAN_SHIFTS = grid(-1.6, 0.2, 1.6);
const SPREADS = [0.12, 0.2, 0.3, 0.45, 0.65];
const TIE_SHIFTS = grid(-1.6, 0.4, 1.6);
const SHIFT_SPREAD = 0.4;
const USUAL_SPREAD = 0.28;
const SPREAD_SPREAD = 0.5;
/** A bay that has to be learned is first taken to mount and drift somewhat worse than the usual one. */
const MOUNT_SHIFT = { mean: 0.3, spread: 0.54, within: 0.25 };
const DRIFT_SHIFT = { mean: 0.2, spread: 0.57, within: 0.4 };

/** The table that a job leaves. @param y log-percent of its unmarked counted pulls */
export function jobTable(prepared: Prepared, y: ArrayLike<number>): JobTable {
  const { model } = prepared;
  const flat = new Float64Array(model.mountNodes.length * model.driftNodes.length * model.scatterNodes.length).fill(1);
  const [mixture] = fit(prepared, y, [aimAt(prepared, [])], flat) as [Mixture];
  return nodeWeights(mixture).map((weight) => log(weight) + mixture.logScale);
}

/** Weights from logarithms, summing to 1. */
function normalised(logs: readonly number[]): number[] {
  const most = logs.reduce((a, b) => max(a, b), -Infinity);
  const raw = logs.map((value) => exp(value - most));
  const all = raw.reduce((a, b) => a + b, 0);
  return raw.map((value) => value / all);
}

const square = (value: number) => value * value;

/**
 * What a bay's jobs say of its scatter, then of its mounts and drift: two small sums over medians and spreads, nothing plugged in.
 * @returns null under `LEAST_JOBS` jobs
 */
export function learnedNoise(jobs: readonly JobTable[], model: EngineModel = USUAL_MODEL): LearnedNoise | null {
  if (jobs.length < LEAST_JOBS) return null;
  const usual = usualPrior(model);
  // Every table is known up to a factor of its own: the largest number is taken out, so that nothing runs out of range.
  const tables = jobs.map((job) => {
    const most = job.reduce((a, b) => max(a, b), -Infinity);
    return job.map((value) => exp(value - most));
  });
  const scatter = learnedScatter(tables, usual, model);
  const pairs = learnedPairs(tables, scatter, model);
  return {
    scatter: scatter.weights,
    mountDrift: pairs.weights,
    medians: { scatter: exp(scatter.logMedian), ...pairs.medians },
  };
}

/**
 * Nine days in ten the bay is what it has shown itself to be, one in ten it is a bay like any.
 * @param learned null: nothing, the prior is the usual one
 * @param scatterFactor raises the median of σ in the usual prior, for bands
 */
export function priorsWith(
  learned: LearnedNoise | null,
  model: EngineModel = USUAL_MODEL,
  scatterFactor = 1,
): BayPriors {
  const usual = usualPrior(model, scatterFactor);
  if (!learned) return { prior: usual, usual };
  const prior = usual.map((value) => UNLIKE * value);
  model.mountNodes.forEach((_, t) =>
    model.driftNodes.forEach((__, s) =>
      model.scatterNodes.forEach((___, k) => {
        prior[nodeAt(model, t, s, k)]! += (1 - UNLIKE) * learned.mountDrift[t]![s]! * learned.scatter[k]!;
      }),
    ),
  );
  return { prior, usual };
}

function learnedScatter(tables: readonly Float64Array[], usual: NodePrior, model: EngineModel) {
  const scatters = model.scatterNodes.length;
  // p(τ, s | σ) of the usual prior.
  const perScatter = new Float64Array(scatters);
  usual.forEach((value, i) => (perScatter[i % scatters]! += value));
  const likelihoods = tables.map((table) => {
    const own = new Float64Array(scatters);
    table.forEach((value, i) => (own[i % scatters]! += (value * usual[i]!) / perScatter[i % scatters]!));
    return own;
  });
  const cells = MEDIAN_SHIFTS.flatMap((shift) => SPREADS.map((spread) => ({ shift, spread })));
  const shapes = cells.map(({ shift, spread }) =>
    logNormalOver(model.scatterNodes, log(model.scatterMedian) + shift, spread),
  );
  const q = normalised(
    cells.map(({ shift, spread }, c) => {
      const fitted = likelihoods.reduce(
        (total, own) => total + log(shapes[c]!.reduce((a, weight, k) => a + weight * own[k]!, 0)),
        0,
      );
      return fitted - 0.5 * square(shift / SHIFT_SPREAD) - 0.5 * square(log(spread / USUAL_SPREAD) / SPREAD_SPREAD);
    }),
  );
  return {
    weights: model.scatterNodes.map((_, k) => q.reduce((total, weight, c) => total + weight * shapes[c]![k]!, 0)),
    logMedian: q.reduce((total, weight, c) => total + weight * (log(model.scatterMedian) + cells[c]!.shift), 0),
  };
}

function learnedPairs(
  tables: readonly Float64Array[],
  scatter: { readonly weights: readonly number[]; readonly logMedian: number },
  model: EngineModel,
) {
  const calmer = scatter.logMedian - log(model.scatterMedian);
  // A bay that never returned shows its scatter and not its drift: only half of its calm is believed of the drift.
  const u = calmer < 0 ? calmer / 2 : calmer;
  const likelihoods = tables.map((table) =>
    model.mountNodes.map((_, t) =>
      model.driftNodes.map((__, s) =>
        scatter.weights.reduce((total, weight, k) => total + weight * table[nodeAt(model, t, s, k)]!, 0),
      ),
    ),
  );
  const mounts = TIE_SHIFTS.map((a) =>
    logNormalOver(model.mountNodes, log(model.mountMedian) + u + a, MOUNT_SHIFT.within),
  );
  const drifts = TIE_SHIFTS.map((b) =>
    logNormalOver(model.driftNodes, log(model.driftMedian) + u + b, DRIFT_SHIFT.within),
  );
  const cells = TIE_SHIFTS.flatMap((a, i) => TIE_SHIFTS.map((b, j) => ({ a, b, i, j })));
  const q = normalised(
    cells.map(({ a, b, i, j }) => {
      const fitted = likelihoods.reduce((total, own) => {
        let sum = 0;
        mounts[i]!.forEach((pt, t) => drifts[j]!.forEach((ps, s) => (sum += pt * ps * own[t]![s]!)));
        return total + log(sum);
      }, 0);
      return (
        fitted -
        0.5 * square((a - MOUNT_SHIFT.mean) / MOUNT_SHIFT.spread) -
        0.5 * square((b - DRIFT_SHIFT.mean) / DRIFT_SHIFT.spread)
      );
    }),
  );
  const weights = model.mountNodes.map((_, t) =>
    model.driftNodes.map((__, s) =>
      q.reduce((total, weight, c) => total + weight * mounts[cells[c]!.i]![t]! * drifts[cells[c]!.j]![s]!, 0),
    ),
  );
  const logMean = (of: (t: number, s: number) => number) =>
    exp(weights.reduce((all, row, t) => all + row.reduce((sum, weight, s) => sum + weight * of(t, s), 0), 0));
  return {
    weights,
    medians: {
      mount: logMean((t) => log(model.mountNodes[t]!)),
      drift: logMean((_, s) => log(model.driftNodes[s]!)),
    },
  };
}

/**
 * How much of a day's weight lies on "the bay is not itself today"; over a half the report says so.
 * @param nodes weights of the nodes under the learned prior, as `nodeWeights` gives them
 */
export function unlikeToday({ prior, usual }: BayPriors, nodes: ArrayLike<number>): number {
  let unlike = 0;
  for (let i = 0; i < nodes.length; i += 1) if (prior[i]! > 0) unlike += (nodes[i]! * UNLIKE * usual[i]!) / prior[i]!;
  return unlike;
}
