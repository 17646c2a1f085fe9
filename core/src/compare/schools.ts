import { peakOf, windowMean, type GridCurve } from '../pull/gridCurve.ts';
import { mean } from '../statistics/summary.ts';

/**
 * How the schools of the trade would call the same pulls. None of them knows its own doubt; they stand beside the
 * verdict because they can contradict each other on the same day. Common practice, no source.
 */
export interface School {
  readonly id: 'bestOfEach' | 'averageOfPeaks' | 'trimmedMean' | 'samePosition' | 'mean' | 'bestBand';
  readonly label: string;
  readonly percent: number | null;
  /** SI unit of the measure. */
  readonly value: number | null;
  /** The single comparisons behind it, same unit, where it makes several. */
  readonly pairs: readonly number[];
}

/**
 * @param baseline corrected curves of the counted baseline pulls on the measure's quantity (power or torque), in order
 * @param candidate the candidate's likewise
 * @param window common window, rpm
 * @example schoolsOf([{ first: 120, values: Float64Array.of(100, 100) }], [{ first: 120, values: Float64Array.of(102, 102) }], [3000, 3025])[0].percent // 2
 */
export function schoolsOf(
  baseline: readonly GridCurve[],
  candidate: readonly GridCurve[],
  window: readonly [number, number],
): School[] {
  const peaks = (curves: readonly GridCurve[]) => curves.map((c) => peakOf(c)?.value ?? NaN).filter(Number.isFinite);
  const means = (curves: readonly GridCurve[]) => curves.map((c) => windowMean(c, window[0], window[1]));
  const a = peaks(baseline);
  const b = peaks(candidate);
  const aMeans = means(baseline);
  const bMeans = means(candidate);
  const pairs = Math.min(aMeans.length, bMeans.length);
  const first = (values: number[]) => mean(values.slice(0, pairs));
  return [
    school('bestOfEach', 'Best peak against best peak', Math.max(...a), Math.max(...b)),
    school('averageOfPeaks', 'Average of the peaks', mean(a), mean(b)),
    school('trimmedMean', 'Peaks without highest and lowest', trimmed(a), trimmed(b)),
    school(
      'samePosition',
      'Same place in the round',
      first(aMeans),
      first(bMeans),
      Array.from({ length: pairs }, (_, j) => bMeans[j]! - aMeans[j]!),
    ),
    school('mean', 'Mean against mean', mean(aMeans), mean(bMeans)),
    school('bestBand', 'Best 500 rpm', ...bestBand(baseline, candidate, window)),
  ];
}

/**
 * The same for readings of which there is no curve: best of each (of a measure that has a better), mean, same place in the round.
 * @param baseline readings of the counted pulls in order, in the measure's unit
 * @example schoolsOfReadings([40, 42], [38, 38], 'lower').map((s) => s.value) // [-2, -3, -3]
 */
export function schoolsOfReadings(
  baseline: readonly number[],
  candidate: readonly number[],
  better: 'higher' | 'lower' | 'neither',
): School[] {
  const best = better === 'lower' ? Math.min : Math.max;
  const pairs = Math.min(baseline.length, candidate.length);
  const first = (values: readonly number[]) => mean(values.slice(0, pairs));
  const of = (id: School['id'], label: string, base: number, other: number, own: number[] = []): School => ({
    ...{ id, label, percent: null, pairs: own },
    value: Number.isFinite(other - base) ? other - base : null,
  });
  const places = Array.from({ length: pairs }, (_, j) => candidate[j]! - baseline[j]!);
  return [
    ...(better === 'neither' ? [] : [of('bestOfEach', 'Best against best', best(...baseline), best(...candidate))]),
    of('samePosition', 'Same place in the round', first(baseline), first(candidate), places),
    of('mean', 'Mean against mean', mean(baseline), mean(candidate)),
  ];
}

function school(id: School['id'], label: string, base: number, other: number, pairs: number[] = []): School {
  const known = Number.isFinite(base) && Number.isFinite(other) && base > 0;
  return { id, label, percent: known ? 100 * (other / base - 1) : null, value: known ? other - base : null, pairs };
}

function trimmed(values: readonly number[]): number {
  if (values.length < 3) return NaN;
  return mean([...values].sort((x, y) => x - y).slice(1, -1));
}

/** The 500-rpm band in which the candidate's mean of means looks best, in per cent. */
function bestBand(
  baseline: readonly GridCurve[],
  candidate: readonly GridCurve[],
  window: readonly [number, number],
): [number, number] {
  let best: [number, number] = [NaN, NaN];
  for (let from = Math.ceil(window[0] / 500) * 500; from + 500 <= window[1]; from += 500) {
    const base = mean(baseline.map((c) => windowMean(c, from, from + 500)));
    const other = mean(candidate.map((c) => windowMean(c, from, from + 500)));
    if (Number.isFinite(other / base) && !(other / base <= best[1] / best[0])) best = [base, other];
  }
  return best;
}
