const { abs, exp, log } = Math;

/**
 * The model of a day and what is believed of a bay before its pulls are seen (docs/method.md, The engine). In log-percent,
 * y = 100·ln P: y = μ(setup) − h·x + g(t) + m(round) + e, with x the start temperature about its mean, g a Gaussian process of the
 * day's drift, m the mount of a round, and e the scatter of a pull, which for at most one pull of a job is five times as wide.
 */
export interface EngineModel {
  /** Nodes of the pull scatter σ, per cent. */
  readonly scatterNodes: readonly number[];
  /** Nodes of the mount scatter τ, per cent. */
  readonly mountNodes: readonly number[];
  /** Nodes of the drift rate s, per cent per hour. */
  readonly driftNodes: readonly number[];
  /** Median and spread (of the logarithm) of σ, and of τ and s at a scatter of `scatterMedian`. */
  readonly scatterMedian: number;
  readonly scatterSpread: number;
  readonly mountMedian: number;
  readonly mountSpread: number;
  readonly driftMedian: number;
  readonly driftSpread: number;
  /** h0 and s_h: what a degree of start temperature costs, per cent, and how unsure that is. */
  readonly heatCoefficientPercentPerC: number;
  readonly heatCoefficientSpread: number;
  /** φ: the share of the walk in the drift; the rest is a line over an hour and a hump over a day. */
  readonly walkShare: number;
  /** ε: how likely a job holds a bad pull at each place; k_b: how much wider a bad pull scatters, in σ. */
  readonly badPullOdds: number;
  readonly badPullSize: number;
}

const powers = (first: number, ratio: number, n: number) => Array.from({ length: n }, (_, k) => first * ratio ** k);

/** What a bay is taken to be until it has shown itself. Established on simulated days; each value is a judgement. */
export const USUAL_MODEL: EngineModel = {
  scatterNodes: powers(0.06, 1.3, 16),
  mountNodes: powers(0.0375, 2, 5),
  driftNodes: powers(0.06, 1.8, 7),
  scatterMedian: 0.45,
  scatterSpread: 0.5,
  mountMedian: 0.12,
  mountSpread: 0.6,
  driftMedian: 0.26,
  driftSpread: 0.7,
  heatCoefficientPercentPerC: 0.1,
  heatCoefficientSpread: 0.06,
  walkShare: 0.35,
  badPullOdds: 0.05,
  badPullSize: 5,
};

/** Bands scatter more than the window that they are cut from: the median of σ is raised by this factor (judgement). */
export const BAND_SCATTER = 1.15;

/** Correlation lengths of the two parts of the drift, hours. */
const HUMP_H = 3;
export const WALK_H = 4;

/** Variances of the hump and the walk of the drift at a rate of 1: each is scaled so that it changes by SD 1 over one hour. */
export function driftShares(walkShare: number): { readonly hump: number; readonly walk: number } {
  const hump = 1 / (2 * (1 - exp(-1 / (2 * HUMP_H ** 2))));
  const walk = 1 / (2 * (1 - exp(-1 / WALK_H)));
  return { hump: (1 - walkShare) * hump, walk: walkShare * walk };
}

/** Correlation of the hump over so many hours: a squared exponential of 3 h. */
export const humpOver = (hours: number): number => exp(-0.5 * (hours / HUMP_H) ** 2);

/**
 * k(Δ) of the drift covariance s²·k(Δ): a squared exponential of 3 h and an exponential of 4 h, each scaled so that it changes by
 * SD 1·s over one hour.
 * @param hours distance of two pulls
 */
export function driftKernel(hours: number, walkShare: number = USUAL_MODEL.walkShare): number {
  const { hump, walk } = driftShares(walkShare);
  return hump * humpOver(hours) + walk * exp(-abs(hours) / WALK_H);
}

/** Rises with every change of the engine that can move a digit; what was worked out by an older one is worked out again. */
export const ENGINE_VERSION = 4;

/**
 * Settings of a bay by which the model differs from the usual one, under their symbols (docs/method.md, Constants): h0 and sh in %/°C,
 * phi, eps and kb without unit. What is absent is as usual.
 */
export interface VerdictConstants {
  readonly h0?: number;
  readonly sh?: number;
  readonly phi?: number;
  readonly eps?: number;
  readonly kb?: number;
}

const between = (value: number | undefined, usual: number, least: number, most: number) =>
  value !== undefined && value >= least && value <= most ? value : usual;

/** The model of a bay; a setting that makes no sense is taken as absent. */
export function modelOf({ h0, sh, phi, eps, kb }: VerdictConstants): EngineModel {
  const usual = USUAL_MODEL;
  return {
    ...usual,
    heatCoefficientPercentPerC: between(h0, usual.heatCoefficientPercentPerC, 0, 1),
    heatCoefficientSpread: between(sh, usual.heatCoefficientSpread, 0, 1),
    walkShare: between(phi, usual.walkShare, 0, 1),
    badPullOdds: between(eps, usual.badPullOdds, 1e-6, 0.5),
    badPullSize: between(kb, usual.badPullSize, 0, 20),
  };
}

/** Weights of the nodes: for mount `t`, drift `s` and scatter `k` at index (t·drifts + s)·scatters + k; they sum to 1. */
export type NodePrior = Float64Array;

/** Place of a node in a table over all nodes: scatters of one pair of mount and drift lie together. */
export function nodeAt(model: EngineModel, mount: number, drift: number, scatter: number): number {
  return (mount * model.driftNodes.length + drift) * model.scatterNodes.length + scatter;
}

/** A normal density of the logarithm over nodes, normalised to 1 over them. */
export function logNormalOver(nodes: readonly number[], logMedian: number, spread: number): number[] {
  const raw = nodes.map((node) => exp(-0.5 * ((log(node) - logMedian) / spread) ** 2));
  const all = raw.reduce((a, b) => a + b, 0);
  return raw.map((value) => value / all);
}

/**
 * The prior of the model: σ log-normal, τ and s log-normal given σ: a bay that scatters also mounts and drifts worse.
 * @param scatterFactor raises the median of σ, not those of τ and s given σ (bands)
 */
export function usualPrior(model: EngineModel = USUAL_MODEL, scatterFactor = 1): NodePrior {
  const prior = new Float64Array(model.mountNodes.length * model.driftNodes.length * model.scatterNodes.length);
  const scatter = logNormalOver(model.scatterNodes, log(model.scatterMedian * scatterFactor), model.scatterSpread);
  model.scatterNodes.forEach((sigma, k) => {
    const worse = log(sigma / model.scatterMedian);
    const mount = logNormalOver(model.mountNodes, log(model.mountMedian) + worse, model.mountSpread);
    const drift = logNormalOver(model.driftNodes, log(model.driftMedian) + worse, model.driftSpread);
    mount.forEach((pt, t) =>
      drift.forEach((ps, s) => {
        prior[nodeAt(model, t, s, k)] = scatter[k]! * pt * ps;
      }),
    );
  });
  return prior;
}
