import { EigenvalueDecomposition, Matrix, pseudoInverse } from 'ml-matrix';
import { covarianceShares, isBlocked, meanColumns, roundVariance, type DayParts, type EnginePull } from './parts.ts';
import { mountDriftPairs, type Projection } from './projection.ts';

const { floor, log, max, sqrt } = Math;

/** One pair of mount and drift nodes: eigenvalues λ of QᵀKQ, and G = Q·U with its eigenvectors U. */
interface NodeDecomposition {
  readonly lambda: Float64Array;
  /** N×r by rows. */
  readonly vectors: Float64Array;
}

/**
 * The projection by decomposing the covariance of what the means leave over, for every pair of mount and drift nodes: P = G·diag(w)·Gᵀ
 * with w = 1/(λ + σ²). For any order of pulls; work grows with the cube of the pulls.
 */
export function denseProjection(day: DayParts): Projection {
  const { model, pulls } = day;
  const n = pulls.length;
  const within = isBlocked(pulls) ? leftOver(pulls) : helmert(pulls);
  const r = within.columns;
  // QᵀKQ is linear in what K is made of: each part is projected once.
  const unit = covarianceShares(day, 1, 1);
  const inner = {
    heat: projected(unit.heat, within, n),
    round: projected(day.sameRound, within, n),
    drift: projected(day.drift, within, n),
  };
  const pairs = mountDriftPairs(model).map(({ mount, drift }) => {
    const whole = Matrix.add(inner.heat, Matrix.mul(inner.round, roundVariance(day, mount)));
    return decompose(whole.add(Matrix.mul(inner.drift, drift * drift)), within);
  });
  // Squares of the vectors, which P_ii is made of.
  const squared = pairs.map(({ vectors }) => vectors.map((value) => value * value));
  const squares = model.scatterNodes.map((sigma) => sigma ** 2);
  const scatters = squares.length;
  const halfLogWeights = new Float64Array(pairs.length * scatters);
  const firm = new Float64Array(halfLogWeights.length * n);
  const w = new Float64Array(r);
  for (let node = 0; node < halfLogWeights.length; node += 1) {
    const pair = floor(node / scatters);
    const { lambda } = pairs[pair]!;
    let logs = 0;
    for (let j = 0; j < r; j += 1) {
      w[j] = 1 / (lambda[j]! + squares[node % scatters]!);
      logs += log(w[j]!);
    }
    halfLogWeights[node] = 0.5 * logs;
    for (let i = 0; i < n; i += 1) firm[node * n + i] = sumOf(squared[pair]!, i * r, w);
  }
  const g = new Float64Array(r);
  const u = new Float64Array(r);
  const out = new Float64Array(n);
  return {
    ...{ halfLogWeights, firm, degrees: r },
    through(nodes, vector, each) {
      let before = -1;
      for (let place = 0; place < nodes.length; place += 1) {
        const node = nodes[place]!;
        const pair = floor(node / scatters);
        const sigma2 = squares[node % scatters]!;
        const { lambda, vectors } = pairs[pair]!;
        if (pair !== before) {
          const v = vector(pair);
          g.fill(0);
          for (let i = 0; i < n; i += 1) for (let j = 0; j < r; j += 1) g[j]! += vectors[i * r + j]! * v[i]!;
          before = pair;
        }
        for (let j = 0; j < r; j += 1) u[j] = g[j]! / (lambda[j]! + sigma2);
        for (let i = 0; i < n; i += 1) out[i] = sumOf(vectors, i * r, u);
        each(out, node, place);
      }
    },
  };
}

/** A row of a table times as many weights; four sums side by side, since one would wait for itself at every term. */
function sumOf(table: Float64Array, at: number, weights: Float64Array): number {
  const whole = weights.length - (weights.length % 4);
  let s0 = 0;
  let s1 = 0;
  let s2 = 0;
  let s3 = 0;
  for (let j = 0; j < whole; j += 4) {
    s0 += table[at + j]! * weights[j]!;
    s1 += table[at + j + 1]! * weights[j + 1]!;
    s2 += table[at + j + 2]! * weights[j + 2]!;
    s3 += table[at + j + 3]! * weights[j + 3]!;
  }
  for (let j = whole; j < weights.length; j += 1) s0 += table[at + j]! * weights[j]!;
  return s0 + s1 + (s2 + s3);
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
