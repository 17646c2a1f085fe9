const { ceil, floor } = Math;

/** Samples at an even spacing from `fromS` on; NaN in a gap. */
export interface EvenSamples {
  readonly fromS: number;
  readonly stepS: number;
  readonly values: Float64Array;
}

/** A wider gap between two samples is not bridged, seconds. */
export const WIDEST_GAP_S = 2.5;

/**
 * Samples at an even spacing, straight between those that were recorded; nothing is extrapolated.
 * @param timeS rising; samples whose value or time is missing are passed over
 */
export function evenSamples(timeS: Float64Array, values: Float64Array, stepS: number): EvenSamples {
  const known = [...timeS.keys()].filter((i) => Number.isFinite(timeS[i]) && Number.isFinite(values[i]));
  if (known.length < 2) return { fromS: 0, stepS, values: new Float64Array(0) };
  const [first, last] = [timeS[known[0]!]!, timeS[known.at(-1)!]!];
  const from = ceil(first / stepS - 1e-9);
  const out = new Float64Array(Math.max(0, floor(last / stepS + 1e-9) - from + 1)).fill(NaN);
  let k = 0;
  for (let i = 0; i < out.length; i += 1) {
    const at = (from + i) * stepS;
    while (k + 2 < known.length && timeS[known[k + 1]!]! < at) k += 1;
    const [a, b] = [known[k]!, known[k + 1]!];
    const width = timeS[b]! - timeS[a]!;
    if (width > WIDEST_GAP_S || width <= 0) continue;
    out[i] = values[a]! + ((at - timeS[a]!) / width) * (values[b]! - values[a]!);
  }
  return { fromS: from * stepS, stepS, values: out };
}

/** Straight between even samples; NaN outside and beside a gap. */
export function valueAt({ fromS, stepS, values }: EvenSamples, at: number): number {
  const place = (at - fromS) / stepS;
  const i = floor(place);
  if (i < 0 || i + 1 >= values.length) return i === values.length - 1 && place === i ? values[i]! : NaN;
  return values[i]! + (place - i) * (values[i + 1]! - values[i]!);
}

/** Mean of every so many neighbours: the same samples, more coarsely. */
export function coarser({ fromS, stepS, values }: EvenSamples, times: number): EvenSamples {
  const n = floor(values.length / times);
  const out = new Float64Array(n);
  for (let i = 0; i < n; i += 1) {
    let sum = 0;
    for (let j = 0; j < times; j += 1) sum += values[i * times + j]!;
    out[i] = sum / times;
  }
  return { fromS: fromS + (stepS * (times - 1)) / 2, stepS: stepS * times, values: out };
}
