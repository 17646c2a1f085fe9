import { atGrid, boxcar, fromRpm, GRID_STEP_RPM, toRpm, windowMean, type GridCurve } from '../pull/gridCurve.ts';
import { mean, median } from '../statistics/summary.ts';
import { mixtureMean, mixtureQuantile, merged, nodeWeights, noiseOf } from './engine/answer.ts';
import { fit, type Mixture } from './engine/fit.ts';
import { weighedDays, type WeighedDay } from './engine/plugIn.ts';
import { bandCorrelation, together } from './engine/together.ts';
import { decide, margins } from './decide.ts';
import { inEngine } from './endpoint.ts';
import { scaledAnswer } from './gain.ts';
import { contrastOf, type MeasuredDay } from './measuredDay.ts';
import type { Band, Ribbon } from './outcome.ts';
import { truePercent } from './percent.ts';
import type { AnalysisSettings } from './settings.ts';

const BAND_RPM = 500;
const LEAST_BAND_RPM = 250;
const RIBBON_WIDTH_RPM = 250;
const RIBBON_STEP_RPM = 100;
/** Nodes under this weight in a band's fit are left out of its ribbon points, for speed. */
const LIGHT_NODE = 3e-5;
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

/** A pull's mean over a band, for every pull of a day, in the measure's SI unit. */
function bandMeans(curves: readonly GridCurve[], [from, to]: readonly [number, number]): number[] | null {
  const means = curves.map((curve) => windowMean(curve, from, to));
  return means.every((value) => value > 0 && Number.isFinite(value)) ? means : null;
}

/** Bands of the range that every curve covers, with the means of each curve. A band without a positive mean everywhere is left out. */
export function measuredBands(
  curves: readonly GridCurve[],
): { readonly edges: readonly [number, number]; readonly means: readonly number[] }[] {
  const low = Math.max(...curves.map(fromRpm));
  const high = Math.min(...curves.map(toRpm));
  return bandEdges(low, high).flatMap((edges) => {
    const means = bandMeans(curves, edges);
    return means ? [{ edges, means }] : [];
  });
}

interface BandFit {
  readonly edges: readonly [number, number];
  readonly means: readonly number[];
  readonly values: readonly number[];
  /** The contrast of each candidate at the band's own plug-in node; in the order of `MeasuredDay.sides`, like the mixtures. */
  readonly weighed: readonly WeighedDay[];
  /** One a candidate, in the order of `MeasuredDay.sides`. */
  readonly mixtures: readonly Mixture[];
}

/** A point of the ribbon: 250-rpm averages of every pull; null in a hole. */
interface RibbonFit {
  readonly rpm: number;
  readonly mixtures: readonly Mixture[] | null;
  readonly baseline: number;
}

/** The fits of all bands and ribbon points of a job, shared by its candidates. */
export interface BandFits {
  readonly bands: readonly BandFit[];
  readonly ribbon: readonly RibbonFit[];
}

/** The same engine, on the same prepared day, per band and per ribbon point. */
export function fitBands(day: MeasuredDay, settings: AnalysisSettings): BandFits {
  const curves = day.used.map((c) => settings.endpoint.curve(c.power));
  const contrasts = day.sides.map(contrastOf);
  const bands = measuredBands(curves).map(({ edges, means }): BandFit => {
    const values = means.map((value) => inEngine(settings.endpoint, value));
    const mixtures = fit(day.prepared, values, day.aims, settings.bandPriors.prior);
    const { geometric } = noiseOf(day.prepared.model, mixtures[0]!);
    return { edges, means, values, mixtures, weighed: weighedDays(day.prepared, contrasts, geometric) };
  });
  return { bands, ribbon: fitRibbon(day, curves, bands, settings) };
}

/** A candidate's bands with a simultaneous interval over all of them. @param place of the candidate in `day.sides` */
export function sideBands(
  shared: BandFits,
  place: number,
  day: MeasuredDay,
  settings: AnalysisSettings,
  meaningful: number,
): Band[] {
  const { confidence, endpoint } = settings;
  if (shared.bands.length === 0) return [];
  const fitted = shared.bands.map(({ values, weighed }) => ({ y: values, weighed: weighed[place]! }));
  const mixtures = shared.bands.map((b) => b.mixtures[place]!);
  const ends = together(
    mixtures.map((m) => merged(m)),
    bandCorrelation(day.prepared, fitted),
    confidence,
  );
  return shared.bands.map(({ edges, means }, b): Band => {
    const { low, high } = ends[b]!;
    const e = scaledAnswer(
      { estimate: mixtureMean(mixtures[b]!), low, high, low90: low, high90: high },
      endpoint.factor,
    );
    const { verdict } = decide(Infinity, e, margins(meaningful, 'log'));
    const level = Math.exp(mean(means.filter((_, i) => day.used[i]!.side === 0).map(Math.log)));
    return {
      fromRpm: edges[0],
      toRpm: edges[1],
      inWindow: edges[0] >= day.window[0] - 1e-9 && edges[1] <= day.window[1] + 1e-9,
      percent: truePercent(e.estimate),
      lowPercent: truePercent(e.low),
      highPercent: truePercent(e.high),
      verified: verdict === 'verified-gain' || verdict === 'verified-loss',
      verdict: verdict as Band['verdict'],
      baseline: level,
      candidate: level * (1 + truePercent(e.estimate) / 100),
    };
  });
}

/** Nodes that hold a weight worth summing in a band's fit, in the order in which they are decomposed. */
export function heavyNodes(mixture: Mixture): number[] {
  const list: number[] = [];
  nodeWeights(mixture).forEach((weight, node) => {
    if (weight > LIGHT_NODE) list.push(node);
  });
  return list;
}

function fitRibbon(
  { used, prepared, aims }: MeasuredDay,
  curves: readonly GridCurve[],
  bands: readonly BandFit[],
  { endpoint, bandPriors }: AnalysisSettings,
): RibbonFit[] {
  const first = Math.max(...curves.map((c) => c.first));
  const last = Math.min(...curves.map((c) => c.first + c.values.length - 1));
  if (bands.length === 0 || aims.length === 0 || last <= first) return [];
  // Cut to the shared range first, so that every pull is averaged over the same speeds at the ends.
  const smooth = curves.map((curve) =>
    boxcar(
      { ...curve, first, values: curve.values.subarray(first - curve.first, last - curve.first + 1) },
      RIBBON_WIDTH_RPM,
    ),
  );
  const heavy = bands.map((b) => heavyNodes(b.mixtures[0]!));
  return ribbonGrid(first, last).map((k): RibbonFit => {
    const values = smooth.map((curve) => inEngine(endpoint, atGrid(curve, k)));
    const rpm = k * GRID_STEP_RPM;
    const band = bands.findIndex(({ edges }) => rpm <= edges[1]);
    const among = heavy[band < 0 ? bands.length - 1 : band];
    return {
      rpm,
      mixtures: values.every(Number.isFinite) ? fit(prepared, values, aims, bandPriors.prior, among) : null,
      baseline: Math.exp((endpoint.factor * mean(values.filter((_, i) => used[i]!.side === 0))) / 100),
    };
  });
}

/** Grid points of the ribbon: every 100 rpm, and both ends. */
function ribbonGrid(first: number, last: number): number[] {
  const step = RIBBON_STEP_RPM / GRID_STEP_RPM;
  const points = [first];
  for (let k = Math.ceil((first + 1) / step) * step; k < last; k += step) points.push(k);
  return [...points, last];
}

/** Difference over rpm from the same engine, with the pointwise interval. @param place of the candidate in `day.sides` */
export function sideRibbon(shared: BandFits, place: number, { confidence, endpoint }: AnalysisSettings): Ribbon | null {
  if (shared.ribbon.length === 0) return null;
  const points = shared.ribbon.map(({ mixtures }) => {
    if (!mixtures) return null;
    const read = merged(mixtures[place]!, true);
    return {
      estimate: mixtureMean(mixtures[place]!),
      low: mixtureQuantile(read, (1 - confidence) / 2),
      high: mixtureQuantile(read, (1 + confidence) / 2),
    };
  });
  type Point = NonNullable<(typeof points)[number]>;
  const column = (value: (p: Point) => number) =>
    Float64Array.from(points, (p) => (p ? truePercent(endpoint.factor * value(p)) : NaN));
  const rpm = Float64Array.from(shared.ribbon, (p) => p.rpm);
  const percent = column((p) => p.estimate);
  const half = points.flatMap((p) => (p ? [truePercent((endpoint.factor * (p.high - p.low)) / 2)] : []));
  return {
    rpm,
    percent,
    lowPercent: column((p) => p.low),
    highPercent: column((p) => p.high),
    baseline: Float64Array.from(shared.ribbon, (p) => p.baseline),
    crossovers: crossovers(rpm, percent, CROSSOVER_SHARE * (half.length > 0 ? median(half) : Infinity)),
  };
}

/** Speeds where the difference changes sign, reaching `size` per cent within 1000 rpm on both sides of it. */
function crossovers(rpm: Float64Array, percent: Float64Array, size: number): number[] {
  const found: number[] = [];
  const reached = (at: number, from: number, to: number, sign: number) =>
    percent.some((v, i) => rpm[i]! >= at + from && rpm[i]! <= at + to && v * sign >= size);
  for (let i = 1; i < percent.length; i += 1) {
    const a = percent[i - 1]!;
    const b = percent[i]!;
    if (!(a * b < 0 || (a !== 0 && b === 0))) continue;
    const sign = Math.sign(a);
    const at = rpm[i - 1]! + ((rpm[i]! - rpm[i - 1]!) * a) / (a - b);
    if (reached(at, -1000, 0, sign) && reached(at, 0, 1000, -sign) && !reached(at, -1000, 0, -sign)) found.push(at);
  }
  return found;
}
