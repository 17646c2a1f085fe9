import { driftKernel, USUAL_MODEL, type EngineModel } from './model.ts';

/** A counted pull as the engine sees it. */
export interface EnginePull {
  /** Index of its setup; a return check counts as the setup that it returns to. */
  readonly setup: number;
  /** Index of its round: the setup's own id and the round's number. */
  readonly round: number;
  readonly hours: number;
  /** Start temperature above the bay's air, °C; null where nobody knows it. */
  readonly startC: number | null;
  /** Passes of one direction of a road share a level of their own beside that of their setup; absent: there is none. */
  readonly block?: number;
}

/**
 * Columns of the mean, X: an indicator of every setup, and of every block but the first.
 * @returns one column an entry, N values each
 */
export function meanColumns(pulls: readonly EnginePull[]): number[][] {
  const setups = [...new Set(pulls.map((p) => p.setup))];
  const blocks = [...new Set(pulls.map((p) => p.block ?? 0))].slice(1);
  return [
    ...setups.map((setup) => pulls.map((p) => (p.setup === setup ? 1 : 0))),
    ...blocks.map((block) => pulls.map((p) => (p.block === block ? 1 : 0))),
  ];
}

/** Whether pulls lie in more than one block. */
export function isBlocked(pulls: readonly EnginePull[]): boolean {
  return pulls.some((p) => (p.block ?? 0) !== (pulls[0]!.block ?? 0));
}

export interface PrepareOptions {
  /** Two rounds of the job were separated by unstrapping: every mount scatter counts twice. */
  readonly unstrapped?: boolean;
  /** The part is meant to change the intake air: heat is left in, whether or not its temperatures are known. */
  readonly meantToChange?: boolean;
  readonly model?: EngineModel;
}

/** What the covariance K of a day's pulls is made of, before anybody says how much of each there is. N×N tables by rows. */
export interface DayParts {
  readonly model: EngineModel;
  readonly pulls: readonly EnginePull[];
  /** x: start temperature about its mean, °C; zeros where heat is off. */
  readonly heat: Float64Array;
  /** h0 where heat is on, 0 where it is off; s_h likewise. */
  readonly heatCoefficient: number;
  readonly heatSpread: number;
  /** 1 where two pulls share a round. */
  readonly sameRound: Float64Array;
  /** k(Δ) of every two pulls. */
  readonly drift: Float64Array;
  readonly mountFactor: number;
  /** Variance added to the round term because start temperatures are missing, per cent². */
  readonly heatMissing: number;
}

/** (0.30 %)²: what 3 °C between rounds are worth at 0.10 %/°C, where nobody knows them. */
const HEAT_MISSING = 0.09;

/** @throws RangeError without pulls */
export function dayParts(pulls: readonly EnginePull[], options: PrepareOptions = {}): DayParts {
  const { unstrapped = false, meantToChange = false, model = USUAL_MODEL } = options;
  const n = pulls.length;
  if (n === 0) throw new RangeError('the engine needs at least one pull');
  const missing = !meantToChange && pulls.some((p) => p.startC === null);
  const heatOn = !missing && !meantToChange;
  const mean = pulls.reduce((a, p) => a + (p.startC ?? 0), 0) / n;
  const table = (of: (a: EnginePull, b: EnginePull) => number) => {
    const values = new Float64Array(n * n);
    for (let i = 0; i < n; i += 1) for (let j = 0; j < n; j += 1) values[i * n + j] = of(pulls[i]!, pulls[j]!);
    return values;
  };
  return {
    ...{ model, pulls },
    heat: Float64Array.from(pulls, (p) => (heatOn ? p.startC! - mean : 0)),
    heatCoefficient: heatOn ? model.heatCoefficientPercentPerC : 0,
    heatSpread: heatOn ? model.heatCoefficientSpread : 0,
    sameRound: table((a, b) => (a.round === b.round ? 1 : 0)),
    drift: table((a, b) => driftKernel(a.hours - b.hours, model.walkShare)),
    mountFactor: unstrapped ? 2 : 1,
    heatMissing: missing ? HEAT_MISSING : 0,
  };
}

/** What heat, mounts and drift add to the covariance of two pulls, log-percent²: K without the scatter. */
export interface CovarianceShares {
  readonly heat: Float64Array;
  readonly mounts: Float64Array;
  readonly drift: Float64Array;
}

/** Variance that a round's mount adds to its pulls, per cent². @param mount τ */
export function roundVariance({ mountFactor, heatMissing }: DayParts, mount: number): number {
  return (mountFactor * mount) ** 2 + heatMissing;
}

/** The shares of K at a mount scatter τ and a drift rate s. N×N by rows. */
export function covarianceShares(day: DayParts, mount: number, drift: number): CovarianceShares {
  const n = day.pulls.length;
  const round = roundVariance(day, mount);
  const heat = new Float64Array(n * n);
  for (let i = 0; i < n; i += 1)
    for (let j = 0; j < n; j += 1) heat[i * n + j] = day.heatSpread ** 2 * day.heat[i]! * day.heat[j]!;
  return {
    heat,
    mounts: day.sameRound.map((value) => round * value),
    drift: day.drift.map((value) => drift * drift * value),
  };
}

/** K of a day at a mount scatter τ and a drift rate s: s_h²·x·xᵀ + τ²·[same round] + s²·k(Δ). N×N by rows. */
export function covarianceAt(day: DayParts, mount: number, drift: number): Float64Array {
  const shares = covarianceShares(day, mount, drift);
  return shares.mounts.map((value, i) => shares.heat[i]! + value + shares.drift[i]!);
}
