const { sqrt } = Math;

/**
 * Normalised cross-correlation: Pearson's coefficient of a pattern with every stretch of its length of a record.
 * @returns one number for each offset, in samples; −1 where the stretch has a gap or never changes
 */
export function crossCorrelation(pattern: Float64Array, record: Float64Array): Float64Array {
  const n = pattern.length;
  const out = new Float64Array(Math.max(0, record.length - n + 1)).fill(-1);
  const mean = pattern.reduce((a, v) => a + v, 0) / n;
  const own = pattern.map((v) => v - mean);
  const size = sqrt(own.reduce((a, v) => a + v * v, 0));
  if (!(size > 0)) return out;
  // Sums over the stretch are carried along; a gap poisons them, so they begin anew behind it.
  let [sum, squares, held] = [0, 0, 0];
  for (let end = 0; end < record.length; end += 1) {
    const value = record[end]!;
    if (!Number.isFinite(value)) {
      [sum, squares, held] = [0, 0, 0];
      continue;
    }
    sum += value;
    squares += value * value;
    held += 1;
    if (held > n) {
      const left = record[end - n]!;
      sum -= left;
      squares -= left * left;
      held = n;
    }
    if (held < n) continue;
    const spread = squares - (sum * sum) / n;
    if (!(spread > 1e-9 * squares)) continue;
    let dot = 0;
    const from = end - n + 1;
    for (let i = 0; i < n; i += 1) dot += own[i]! * record[from + i]!;
    out[from] = dot / (size * sqrt(spread));
  }
  return out;
}

/** Places of the highest local maxima of at least `least`, best first. */
export function highestPlaces(values: Float64Array, least: number, most: number, apart: number): number[] {
  const tops = [...values.keys()].filter(
    (i) => values[i]! >= least && values[i]! >= (values[i - 1] ?? -1) && values[i]! > (values[i + 1] ?? -1),
  );
  const chosen: number[] = [];
  for (const i of tops.sort((a, b) => values[b]! - values[a]!)) {
    if (chosen.length === most) break;
    if (chosen.every((j) => Math.abs(i - j) >= apart)) chosen.push(i);
  }
  return chosen;
}
