const { sqrt } = Math;

/**
 * Columns c with Σ c·cᵀ = T for a positive semidefinite table T, as many as it takes until no diagonal entry of what is left over is
 * above `rest`: Cholesky's method, the largest of what is left first (Harbrecht, Peters & Schneider 2012).
 * @param table entry at row i and column j of T, asked for as it is needed
 * @returns null when more than `most` columns are wanted
 * @example pivotedCholesky(2, () => 4, 1e-9, 2)?.map((c) => [...c]) // [[2, 2]]
 */
export function pivotedCholesky(
  n: number,
  table: (i: number, j: number) => number,
  rest: number,
  most: number,
): Float64Array[] | null {
  const left = Float64Array.from({ length: n }, (_, i) => table(i, i));
  const columns: Float64Array[] = [];
  for (;;) {
    let top = 0;
    for (let i = 1; i < n; i += 1) if (left[i]! > left[top]!) top = i;
    if (!(left[top]! > rest)) return columns;
    if (columns.length === most) return null;
    const column = new Float64Array(n);
    const root = sqrt(left[top]!);
    for (let i = 0; i < n; i += 1) {
      let own = table(i, top);
      for (const c of columns) own -= c[i]! * c[top]!;
      column[i] = own / root;
      left[i]! -= column[i]! * column[i]!;
    }
    // Rounding must not bring back what has been taken out.
    left[top] = 0;
    columns.push(column);
  }
}
