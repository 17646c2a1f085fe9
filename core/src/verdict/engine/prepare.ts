import { EigenvalueDecomposition, Matrix, pseudoInverse } from 'ml-matrix';
import {
  covarianceShares,
  dayParts,
  isBlocked,
  meanColumns,
  roundVariance,
  type DayParts,
  type EnginePull,
  type PrepareOptions,
} from './parts.ts';

const { log, max, sqrt } = Math;

/** One pair of mount and drift nodes: eigenvalues λ of QᵀKQ, and G = Q·U with its eigenvectors U. */
interface NodeDecomposition {
  readonly lambda: Float64Array;
  /** N×r by rows. */
  readonly vectors: Float64Array;
}

/** What does not depend on the values of the pulls: shared by window, bands, ribbon and contrasts of a job. */
export interface Prepared extends DayParts {
  /** r: N − number of setups that were pulled. */
  readonly degrees: number;
  /** At index mount·drifts + drift. */
  readonly nodes: readonly NodeDecomposition[];
  /** ½·Σ ln w of every node, w = 1/(λ + σ²). */
  readonly halfLogWeights: Float64Array;
  /** D = 1 + (k_b·σ)²·P with P = Σ G²·w, how firmly the others hold pull i at a node, and ½·ln D; at index node·N + i. */
  readonly held: Float64Array;
  readonly halfLogHeld: Float64Array;
}

/**
 * Takes the mean of each setup out of the pulls (Helmert contrasts within it) and decomposes the covariance of what is left for every
 * pair of mount and drift nodes.
 * @throws RangeError without pulls
 */
export function prepare(pulls: readonly EnginePull[], options: PrepareOptions = {}): Prepared {
  const day = dayParts(pulls, options);
  const { model } = day;
  const n = pulls.length;
  const within = isBlocked(pulls) ? leftOver(pulls) : helmert(pulls);
  const r = within.columns;
  // QᵀKQ is linear in what K is made of: each part is projected once.
  const unit = covarianceShares(day, 1, 1);
  const inner = {
    heat: projected(unit.heat, within, n),
    round: projected(day.sameRound, within, n),
    drift: projected(unit.drift, within, n),
  };
  const nodes = model.mountNodes.flatMap((mount) =>
    model.driftNodes.map((drift) => {
      const whole = Matrix.add(inner.heat, Matrix.mul(inner.round, roundVariance(day, mount)));
      return decompose(whole.add(Matrix.mul(inner.drift, drift * drift)), within);
    }),
  );
  const scatters = model.scatterNodes.length;
  const halfLogWeights = new Float64Array(nodes.length * scatters);
  const held = new Float64Array(nodes.length * scatters * n);
  const w = new Float64Array(r);
  for (let pair = 0; pair < nodes.length; pair += 1) {
    const { lambda, vectors } = nodes[pair]!;
    for (let k = 0; k < scatters; k += 1) {
      const node = pair * scatters + k;
      const sigma2 = model.scatterNodes[k]! ** 2;
      let logs = 0;
      for (let j = 0; j < r; j += 1) {
        w[j] = 1 / (lambda[j]! + sigma2);
        logs += log(w[j]!);
      }
      halfLogWeights[node] = 0.5 * logs;
      const q = model.badPullSize ** 2 * sigma2;
      for (let i = 0; i < n; i += 1) {
        let firm = 0;
        for (let j = 0; j < r; j += 1) firm += vectors[i * r + j]! * vectors[i * r + j]! * w[j]!;
        held[node * n + i] = 1 + q * firm;
      }
    }
  }
  const halfLogHeld = held.map((d) => 0.5 * log(d));
  return { ...day, nodes, halfLogWeights, held, halfLogHeld, degrees: r };
}

/** Orthonormal contrasts within each setup, Q: N×r. */
function helmert(pulls: readonly EnginePull[]): Matrix {
  const columns: number[][] = [];
  const setups = [...new Set(pulls.map((p) => p.setup))];
  for (const setup of setups) {
    const own = pulls.flatMap((p, i) => (p.setup === setup ? [i] : []));
    for (let j = 1; j < own.length; j += 1) {
      const column = new Array<number>(pulls.length).fill(0);
      const size = 1 / sqrt(j * (j + 1));
      for (let k = 0; k < j; k += 1) column[own[k]!] = size;
      column[own[j]!] = -j * size;
      columns.push(column);
    }
  }
  return columns.length === 0 ? new Matrix(pulls.length, 0) : new Matrix(columns).transpose();
}

/** Orthonormal basis of what the levels of setups and blocks leave over, Q: N×r: the directions in which I − X·X⁺ is one. */
function leftOver(pulls: readonly EnginePull[]): Matrix {
  const n = pulls.length;
  const x = new Matrix(meanColumns(pulls)).transpose();
  const left = Matrix.sub(Matrix.eye(n), x.mmul(pseudoInverse(x)));
  const { realEigenvalues, eigenvectorMatrix } = new EigenvalueDecomposition(left, { assumeSymmetric: true });
  const own = realEigenvalues.flatMap((value, j) => (value > 0.5 ? [j] : []));
  return own.length === 0 ? new Matrix(n, 0) : eigenvectorMatrix.subMatrixColumn(own);
}

/** QᵀTQ of an N×N table. */
function projected(table: Float64Array, within: Matrix, n: number): Matrix {
  return within
    .transpose()
    .mmul(Matrix.from1DArray(n, n, table))
    .mmul(within);
}

function decompose(inner: Matrix, within: Matrix): NodeDecomposition {
  if (within.columns === 0) return { lambda: new Float64Array(0), vectors: new Float64Array(0) };
  const { realEigenvalues, eigenvectorMatrix } = new EigenvalueDecomposition(inner, { assumeSymmetric: true });
  return {
    lambda: Float64Array.from(realEigenvalues).map((value) => max(0, value)),
    vectors: Float64Array.from(within.mmul(eigenvectorMatrix).to1DArray()),
  };
}
