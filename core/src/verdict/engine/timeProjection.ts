import { CholeskyDecomposition, Matrix } from 'ml-matrix';
import { driftShares, humpOver, WALK_H } from './model.ts';
import { meanColumns, roundVariance, type DayParts } from './parts.ts';
import { pivotedCholesky } from './pivotedCholesky.ts';
import { allNodes, mountDriftPairs, type Projection } from './projection.ts';
import { back, forth, inverseDiagonal, timeFilter, type Course, type TimeFilter } from './timeFilter.ts';

const { exp, floor, log, sqrt } = Math;

/** The hump of the drift is written as columns until no variance above this share of it is left. */
const HUMP_REST = 1e-10;
/** Columns of hump, heat and means together, as a share of the pulls, above which decompositions are less work. */
const MOST_COLUMNS = 0.5;

/**
 * The projection along time. V₀, scatter, mounts and the walk of the drift, is taken apart by a filter. What is left of K, the hump of
 * the drift and the heat, is C·Cᵀ with few columns; with those of the means X beside them
 * P = V₀⁻¹ − V₀⁻¹·[C X]·G⁻¹·[C X]ᵀ·V₀⁻¹, where G = [C X]ᵀ·V₀⁻¹·[C X] with ones added on the diagonal of C (Woodbury). Work grows with
 * the pulls, and with the square of the hours of the day through the columns of its hump; not with the cube of the pulls.
 * @returns null where a round was broken off by another, means are not told apart, or decompositions are less work
 */
export function timeProjection(day: DayParts): Projection | null {
  const { model, pulls } = day;
  const n = pulls.length;
  const order = Uint16Array.from(pulls.keys()).sort((a, b) => pulls[a]!.hours - pulls[b]!.hours || a - b);
  const course = courseOf(day, order);
  const { hump, walk } = driftShares(model.walkShare);
  const apart = (i: number, j: number) => humpOver(pulls[order[i]!]!.hours - pulls[order[j]!]!.hours);
  const humps = course && pivotedCholesky(n, apart, HUMP_REST, floor(MOST_COLUMNS * n));
  if (!humps) return null;
  const inTime = (column: ArrayLike<number>) => Float64Array.from(order, (i) => column[i]!);
  const heat = day.heatSpread > 0 ? [inTime(day.heat.map((x) => day.heatSpread * x))] : [];
  const means = meanColumns(pulls).map(inTime);
  const columns = [...humps, ...heat, ...means];
  const q = columns.length;
  const logMeans = logDeterminant(new Matrix(means).mmul(new Matrix(means).transpose()));
  if (q > MOST_COLUMNS * n || logMeans === null) return null;

  const scatters = model.scatterNodes.length;
  const pairs = mountDriftPairs(model);
  const nodes = allNodes(model);
  const halfLogWeights = new Float64Array(nodes.length);
  const firm = new Float64Array(nodes.length * n);
  const filters: TimeFilter[] = [];
  /** Columns of B = V₀⁻¹·[C X]·R⁻ᵀ of every node, with G = R·Rᵀ. */
  const tables: Float64Array[][] = [];
  for (const node of nodes) {
    const { mount, drift } = pairs[floor(node / scatters)]!;
    const scatter = model.scatterNodes[node % scatters]! ** 2;
    const filter = timeFilter(course, { scatter, mount: roundVariance(day, mount), walk: drift * drift * walk });
    const scale = drift * sqrt(hump);
    const own = columns.map((column) => column.slice());
    for (let j = 0; j < q; j += 1) {
      if (j < humps.length) times(own[j]!, scale);
      forth(course, filter, own[j]!);
    }
    const lower = rootOf(own, filter.variance, q - means.length);
    if (!lower) return null;
    let logs = filter.logDeterminant - logMeans;
    for (let j = 0; j < q; j += 1) logs += 2 * log(lower[j * q + j]!);
    halfLogWeights[node] = -0.5 * logs;
    const left = inverseDiagonal(course, filter);
    for (let j = 0; j < q; j += 1) {
      const column = own[j]!;
      back(course, filter, column);
      for (let k = 0; k < j; k += 1) takeOut(column, lower[j * q + k]!, own[k]!);
      times(column, 1 / lower[j * q + j]!);
      for (let i = 0; i < n; i += 1) left[i]! -= column[i]! * column[i]!;
    }
    for (let i = 0; i < n; i += 1) firm[node * n + order[i]!] = left[i]!;
    filters.push(filter);
    tables.push(own);
  }

  const v = new Float64Array(n);
  const along = new Float64Array(n);
  const out = new Float64Array(n);
  return {
    ...{ halfLogWeights, firm, degrees: n - means.length },
    through(list, vector, each) {
      for (let place = 0; place < list.length; place += 1) {
        const node = list[place]!;
        const asked = vector(floor(node / scatters));
        for (let i = 0; i < n; i += 1) v[i] = along[i] = asked[order[i]!]!;
        forth(course, filters[node]!, along);
        back(course, filters[node]!, along);
        for (const column of tables[node]!) takeOut(along, product(column, v), column);
        for (let i = 0; i < n; i += 1) out[order[i]!] = along[i]!;
        each(out, node, place);
      }
    },
  };
}

/** @returns null where pulls of a round have others between them */
function courseOf({ pulls }: DayParts, order: Uint16Array): Course | null {
  const decay = new Float64Array(pulls.length).fill(1);
  const fresh = new Uint8Array(pulls.length).fill(1);
  const seen = new Set<number>();
  for (let k = 0; k < order.length; k += 1) {
    const pull = pulls[order[k]!]!;
    const before = k > 0 ? pulls[order[k - 1]!]! : null;
    if (before) decay[k] = exp(-(pull.hours - before.hours) / WALK_H);
    if (before?.round === pull.round) fresh[k] = 0;
    else if (seen.has(pull.round)) return null;
    seen.add(pull.round);
  }
  return { decay, fresh };
}

/**
 * R of G = R·Rᵀ, q×q by rows, where G = Eᵀ·S⁻¹·E with ones added on the first so many of its diagonal.
 * @returns null where G is not positive definite
 */
function rootOf(columns: readonly Float64Array[], variance: Float64Array, ones: number): Float64Array | null {
  const q = columns.length;
  const g = new Matrix(q, q);
  const weighed = new Float64Array(variance.length);
  for (let a = 0; a < q; a += 1) {
    for (let i = 0; i < weighed.length; i += 1) weighed[i] = columns[a]![i]! / variance[i]!;
    for (let b = 0; b <= a; b += 1) {
      const value = product(weighed, columns[b]!) + (a === b && a < ones ? 1 : 0);
      g.set(a, b, value).set(b, a, value);
    }
  }
  const root = new CholeskyDecomposition(g);
  return root.isPositiveDefinite() ? Float64Array.from(root.lowerTriangularMatrix.to1DArray()) : null;
}

/** Four sums side by side: one would wait for itself at every term. */
function product(a: Float64Array, b: Float64Array): number {
  const whole = a.length - (a.length % 4);
  let [s0, s1, s2, s3] = [0, 0, 0, 0];
  for (let i = 0; i < whole; i += 4) {
    s0 += a[i]! * b[i]!;
    s1 += a[i + 1]! * b[i + 1]!;
    s2 += a[i + 2]! * b[i + 2]!;
    s3 += a[i + 3]! * b[i + 3]!;
  }
  for (let i = whole; i < a.length; i += 1) s0 += a[i]! * b[i]!;
  return s0 + s1 + (s2 + s3);
}

function times(v: Float64Array, factor: number): void {
  for (let i = 0; i < v.length; i += 1) v[i]! *= factor;
}

/** v − share·column, in place. */
function takeOut(v: Float64Array, share: number, column: Float64Array): void {
  for (let i = 0; i < v.length; i += 1) v[i]! -= share * column[i]!;
}

/** ln det of a table; null where it is not positive definite. */
function logDeterminant(table: Matrix): number | null {
  const root = new CholeskyDecomposition(table);
  if (!root.isPositiveDefinite()) return null;
  return root.lowerTriangularMatrix.diagonal().reduce((sum, value) => sum + 2 * log(value), 0);
}
