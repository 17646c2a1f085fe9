import { EigenvalueDecomposition, Matrix } from 'ml-matrix';
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
}

export interface PrepareOptions {
  /** Two rounds of the job were separated by unstrapping: every mount scatter counts twice. */
  readonly unstrapped?: boolean;
  /** The part is meant to change the intake air: heat is left in. */
  readonly meantToChange?: boolean;
  readonly model?: EngineModel;
}

/** One pair of mount and drift nodes: eigenvalues λ of QᵀKQ, its eigenvectors G = Q·U, and K itself. */
interface NodeDecomposition {
  readonly lambda: Float64Array;
  /** N×r by rows. */
  readonly vectors: Float64Array;
  /** N×N by rows. */
  readonly covariance: Float64Array;
}

/** What does not depend on the values of the pulls: shared by window, bands, ribbon and contrasts of a job. */
export interface Prepared {
  readonly model: EngineModel;
  readonly pulls: readonly EnginePull[];
  readonly setups: number;
  /** N − number of setups that were pulled. */
  readonly degrees: number;
  /** x: start temperature about its mean, °C; zeros where heat is off. */
  readonly heat: Float64Array;
  readonly heatCoefficient: number;
  /** Parts of K: heat·heatᵀ, same round, drift kernel; N×N by rows. */
  readonly parts: { readonly heat: Float64Array; readonly round: Float64Array; readonly drift: Float64Array };
  readonly mountFactor: number;
  /** Variance added to the round term because start temperatures are missing, per cent². */
  readonly heatMissing: number;
  /** At index mount·drifts + drift. */
  readonly nodes: readonly NodeDecomposition[];
}

/** (0.30 %)²: what 3 °C between rounds are worth at 0.10 %/°C, where nobody knows them. */
const HEAT_MISSING = 0.09;

/**
 * Takes the mean of each setup out of the pulls (Helmert contrasts within it) and decomposes the covariance of what is left for every
 * pair of mount and drift nodes.
 * @throws RangeError without pulls
 */
export function prepare(pulls: readonly EnginePull[], options: PrepareOptions = {}): Prepared {
  const { unstrapped = false, meantToChange = false, model = USUAL_MODEL } = options;
  const n = pulls.length;
  if (n === 0) throw new RangeError('the engine needs at least one pull');
  const missing = pulls.some((p) => p.startC === null);
  const heatOn = !missing && !meantToChange;
  const mean = pulls.reduce((a, p) => a + (p.startC ?? 0), 0) / n;
  const heat = Float64Array.from(pulls, (p) => (heatOn ? p.startC! - mean : 0));
  const table = (of: (a: number, b: number) => number) =>
    Float64Array.from({ length: n * n }, (_, i) => of(Math.floor(i / n), i % n));
  const parts = {
    heat: table((i, j) => heat[i]! * heat[j]!),
    round: table((i, j) => (pulls[i]!.round === pulls[j]!.round ? 1 : 0)),
    drift: table((i, j) => driftKernel(pulls[i]!.hours - pulls[j]!.hours, model.walkShare)),
  };
  const within = helmert(pulls);
  const mountFactor = unstrapped ? 2 : 1;
  const heatMissing = missing ? HEAT_MISSING : 0;
  const heatVariance = heatOn ? model.heatCoefficientSpread ** 2 : 0;
  const nodes = model.mountNodes.flatMap((mount) =>
    model.driftNodes.map((drift) => {
      const round = (mountFactor * mount) ** 2 + heatMissing;
      const covariance = table(
        (i, j) =>
          heatVariance * parts.heat[i * n + j]! +
          round * parts.round[i * n + j]! +
          drift * drift * parts.drift[i * n + j]!,
      );
      return decompose(covariance, within, n);
    }),
  );
  return {
    ...{ model, pulls, parts, heat, mountFactor, heatMissing, nodes },
    setups: Math.max(...pulls.map((p) => p.setup)) + 1,
    degrees: within.columns,
    heatCoefficient: heatOn ? model.heatCoefficientPercentPerC : 0,
  };
}

/** Orthonormal contrasts within each setup, Q: N×r. */
function helmert(pulls: readonly EnginePull[]): Matrix {
  const columns: number[][] = [];
  const setups = [...new Set(pulls.map((p) => p.setup))];
  for (const setup of setups) {
    const own = pulls.flatMap((p, i) => (p.setup === setup ? [i] : []));
    for (let j = 1; j < own.length; j += 1) {
      const column = new Array<number>(pulls.length).fill(0);
      const size = 1 / Math.sqrt(j * (j + 1));
      for (let k = 0; k < j; k += 1) column[own[k]!] = size;
      column[own[j]!] = -j * size;
      columns.push(column);
    }
  }
  return columns.length === 0 ? new Matrix(pulls.length, 0) : new Matrix(columns).transpose();
}

function decompose(covariance: Float64Array, within: Matrix, n: number): NodeDecomposition {
  const r = within.columns;
  if (r === 0) return { lambda: new Float64Array(0), vectors: new Float64Array(0), covariance };
  const whole = new Matrix(n, n);
  for (let i = 0; i < n; i += 1) for (let j = 0; j < n; j += 1) whole.set(i, j, covariance[i * n + j]!);
  const inner = within.transpose().mmul(whole).mmul(within);
  const { realEigenvalues, eigenvectorMatrix } = new EigenvalueDecomposition(inner, { assumeSymmetric: true });
  const vectors = within.mmul(eigenvectorMatrix);
  return {
    lambda: Float64Array.from(realEigenvalues, (value) => Math.max(0, value)),
    vectors: Float64Array.from({ length: n * r }, (_, i) => vectors.get(Math.floor(i / r), i % r)),
    covariance,
  };
}
