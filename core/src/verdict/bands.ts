import { atGrid, boxcar, fromRpm, GRID_STEP_RPM, toRpm, windowMean, type GridCurve } from '../pull/gridCurve.ts';
import { familywiseCritical } from '../statistics/familywise.ts';
import { mean, median, steady } from '../statistics/summary.ts';
import { BAND_NOISE_FACTOR, truePercent } from './constants.ts';
import { candidateWeights, estimateContrast, type Estimate } from './contrast.ts';
import { margins } from './decide.ts';
import { designFor, type AnalysisSettings } from './estimate.ts';
import { fitPulls, type Design, type Fit } from './fit.ts';
import type { Band, Ribbon } from './outcome.ts';
import type { Candidate } from './selection.ts';

const BAND_RPM = 500;
const LEAST_BAND_RPM = 250;
const RIBBON_WIDTH_RPM = 250;
/** A change of sign is worth naming where both sides of it reach this share of the interval's usual half-width (judgement). */
const CROSSOVER_SHARE = 0.25;

/** Band edges at multiples of 500 rpm over the range that every pull covers; partial bands of at least 250 rpm stay. */
export function bandEdges(from: number, to: number): [number, number][] {
  const bands: [number, number][] = [];
  for (let low = from; low < to;) {
    const high = Math.min(to, (Math.floor(low / BAND_RPM) + 1) * BAND_RPM);
    if (high - low >= LEAST_BAND_RPM) bands.push([low, high]);
    low = high;
  }
  return bands;
}

interface BandFit {
  readonly edges: readonly [number, number];
  readonly means: readonly number[];
  readonly fit: Fit;
}

/** The fit at a grid point: 250-rpm averages of every pull; null in a hole. */
interface GridFit {
  readonly rpm: number;
  readonly fit: Fit | null;
  readonly baseline: number;
}

/** One design and its fits per band and per grid point, shared by all candidates of a job. */
export interface BandFits {
  readonly grid: readonly GridFit[];
  readonly design: Design;
  readonly fits: readonly BandFit[];
}

/** The same engine per band. A band whose mean is not a positive number for every pull is left out. */
export function fitBands(used: readonly Candidate[], settings: AnalysisSettings): BandFits {
  const design = designFor(used, settings);
  const s0 = BAND_NOISE_FACTOR * settings.constants.s0;
  const low = Math.max(...used.map((c) => fromRpm(c.power)));
  const high = Math.min(...used.map((c) => toRpm(c.power)));
  const fits = bandEdges(low, high).flatMap((edges): BandFit[] => {
    const means = used.map((c) => windowMean(settings.endpoint.curve(c.power), edges[0], edges[1]));
    if (!means.every((value) => value > 0 && Number.isFinite(value))) return [];
    return [
      {
        edges,
        means,
        fit: fitPulls(
          design,
          means.map((value) => 100 * Math.log(value)),
          s0,
          settings.constants.d0,
        ),
      },
    ];
  });
  return { design, fits, grid: fitGrid(used, design, s0, settings) };
}

export interface SideBands {
  readonly bands: readonly Band[];
  /** Critical value of the simultaneous intervals. */
  readonly critical: number;
}

/** A candidate's bands with a simultaneous interval over all of them. */
export function sideBands(
  shared: BandFits,
  side: number,
  used: readonly Candidate[],
  window: readonly [number, number],
  settings: AnalysisSettings,
  meaningful: number,
): SideBands {
  const estimates = shared.fits.map(({ fit }) => estimateContrast(fit, candidateWeights(fit, side)!));
  if (estimates.length === 0) return { bands: [], critical: NaN };
  const nu = Math.min(...estimates.map((e) => e.df));
  const critical = familywiseCritical(estimates.length, bandCorrelation(shared, estimates), nu, settings.confidence);
  const [lowMargin, highMargin] = margins(meaningful, 'log');
  const bands = shared.fits.map(({ edges, means }, b): Band => {
    const { estimate, se } = estimates[b]!;
    const low = estimate - critical * se;
    const high = estimate + critical * se;
    const verdict =
      steady(low) > 0
        ? 'verified-gain'
        : steady(high) < 0
          ? 'verified-loss'
          : steady(low) > steady(lowMargin) && steady(high) < steady(highMargin)
            ? 'no-meaningful-change'
            : 'not-resolved';
    const level = Math.exp(mean(means.filter((_, i) => used[i]!.side === 0).map(Math.log)));
    return {
      fromRpm: edges[0],
      toRpm: edges[1],
      inWindow: edges[0] >= window[0] - 1e-9 && edges[1] <= window[1] + 1e-9,
      percent: truePercent(estimate),
      lowPercent: truePercent(low),
      highPercent: truePercent(high),
      verified: verdict === 'verified-gain' || verdict === 'verified-loss',
      verdict,
      baseline: level,
      candidate: level * (1 + truePercent(estimate) / 100),
    };
  });
  return { bands, critical };
}

/**
 * Mean correlation between bands: noise correlates as the residuals of pass 1 do (shrunk to one half with ten degrees of
 * freedom), the allowances are taken as common.
 */
function bandCorrelation({ fits }: BandFits, estimates: readonly Estimate[]): number {
  const m = fits.length;
  if (m < 2) return 0;
  const d = fits[0]!.fit.noise.d;
  let total = 0;
  for (let b = 0; b < m; b += 1) {
    for (let c = b + 1; c < m; c += 1) {
      const observed = correlation(fits[b]!.fit.noise.residuals, fits[c]!.fit.noise.residuals);
      const shrunk = (d * observed + 10 * 0.5) / (d + 10);
      const fb = estimates[b]!.f;
      const fc = estimates[c]!.f;
      total += Math.sqrt(fb * fc) * shrunk + Math.sqrt((1 - fb) * (1 - fc));
    }
  }
  return Math.min(0.98, Math.max(0, total / ((m * (m - 1)) / 2)));
}

function correlation(a: readonly number[], b: readonly number[]): number {
  let ab = 0;
  let aa = 0;
  let bb = 0;
  a.forEach((value, i) => {
    ab += value * b[i]!;
    aa += value * value;
    bb += b[i]! * b[i]!;
  });
  return aa > 0 && bb > 0 ? ab / Math.sqrt(aa * bb) : 0;
}

function fitGrid(used: readonly Candidate[], design: Design, s0: number, settings: AnalysisSettings): GridFit[] {
  const first = Math.max(...used.map((c) => c.power.first));
  const last = Math.min(...used.map((c) => c.power.first + c.power.values.length - 1));
  // Cut to the shared range first, so that every pull is averaged over the same speeds at the ends.
  const smooth: GridCurve[] = used.map(({ power }) => {
    const curve = settings.endpoint.curve(power);
    const values = curve.values.subarray(first - curve.first, last - curve.first + 1);
    return boxcar({ ...curve, first, values }, RIBBON_WIDTH_RPM);
  });
  return Array.from({ length: Math.max(0, last - first + 1) }, (_, i): GridFit => {
    const logs = smooth.map((curve) => 100 * Math.log(atGrid(curve, first + i)));
    const fit = logs.every(Number.isFinite) ? fitPulls(design, logs, s0, settings.constants.d0) : null;
    const baseline = Math.exp(mean(logs.filter((_, k) => used[k]!.side === 0)) / 100);
    return { rpm: (first + i) * GRID_STEP_RPM, fit, baseline };
  });
}

/** Difference over rpm from the same engine at every grid point, with the bands' critical value. */
export function sideRibbon(shared: BandFits, side: number, critical: number): Ribbon | null {
  if (shared.fits.length === 0) return null;
  const weights = candidateWeights(shared.fits[0]!.fit, side)!;
  const points = shared.grid.map(({ fit }) => (fit ? estimateContrast(fit, weights) : null));
  const column = (value: (e: Estimate) => number) =>
    Float64Array.from(points, (e) => (e ? truePercent(value(e)) : NaN));
  const rpm = Float64Array.from(shared.grid, (g) => g.rpm);
  const percent = column((e) => e.estimate);
  const half = points.flatMap((e) => (e ? [truePercent(critical * e.se)] : []));
  return {
    rpm,
    percent,
    lowPercent: column((e) => e.estimate - critical * e.se),
    highPercent: column((e) => e.estimate + critical * e.se),
    baseline: Float64Array.from(shared.grid, (g) => g.baseline),
    crossovers: crossovers(rpm, percent, CROSSOVER_SHARE * (half.length > 0 ? median(half) : Infinity)),
  };
}

/** Speeds where the difference changes sign, reaching `size` per cent within 1000 rpm on both sides of it. */
function crossovers(rpm: Float64Array, percent: Float64Array, size: number): number[] {
  const reach = 1000 / GRID_STEP_RPM;
  const found: number[] = [];
  for (let i = 1; i < percent.length; i += 1) {
    const a = percent[i - 1]!;
    const b = percent[i]!;
    if (!(a * b < 0 || (a !== 0 && b === 0))) continue;
    const sign = Math.sign(a);
    const before = percent.subarray(Math.max(0, i - reach), i);
    const after = percent.subarray(i, i + reach);
    if (
      before.some((v) => v * sign >= size) &&
      after.some((v) => -v * sign >= size) &&
      !before.some((v) => -v * sign >= size)
    ) {
      found.push(rpm[i - 1]! + (GRID_STEP_RPM * a) / (a - b));
    }
  }
  return found;
}
