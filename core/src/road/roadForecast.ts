import { tolerance } from '../bay/houseMethod.ts';
import { repeatedSetup, type Job, type RoadCar } from '../job/job.ts';
import type { DeclaredMeasure } from '../measures/declaredMeasure.ts';
import { GRID_STEP_RPM, type GridCurve } from '../pull/gridCurve.ts';
import { mean } from '../statistics/summary.ts';
import { STANDARD_GRAVITY_M_S2 } from '../units/units.ts';
import type { CandidateVerdict, Judgement } from '../verdict/outcome.ts';
import { asDriven, densityOf } from './drivenCurve.ts';
import { isFelt, roadDistance, roadRun, rotatingShare, type RoadLoad } from './roadRun.ts';

const { abs, floor, hypot, PI } = Math;

/** What the rollers say of a distance from a rolling start, in the gear of the pulls. */
export interface DistanceForecast {
  readonly metres: number;
  readonly baselineS: number;
  readonly candidateS: number;
  /** Ends of the change of the time, s; null where power over the window was not asked about. */
  readonly lowS: number | null;
  readonly highS: number | null;
  /** Speed at its end, m/s. */
  readonly baselineEnd: number;
  readonly candidateEnd: number;
}

/** Distances that are forecast: 200 m, 400 m and a quarter of a mile (1 mile = 1609.344 m exactly). */
export const FORECAST_METRES: readonly number[] = [200, 400, 1609.344 / 4];

/** What the rollers say of a pass: seconds and mean acceleration of both setups, and the change with its interval. */
export interface RoadForecast {
  readonly baselineS: number;
  readonly candidateS: number;
  readonly baselineG: number;
  readonly candidateG: number;
  /** Change of the time, true per cent; the ends are null where power over the window was not asked about. */
  readonly percent: number;
  readonly lowPercent: number | null;
  readonly highPercent: number | null;
  /** C_d·A that was used, m². */
  readonly dragAreaM2: number;
  /** Drag was fitted to the baseline's passes: only the change is a forecast. */
  readonly fitted: boolean;
  readonly airDensity: number;
  /** A driver would feel the change of acceleration. */
  readonly felt: boolean;
  /** From the lower speed on; distances at whose end the curves do not reach are left out. */
  readonly distances: readonly DistanceForecast[];
}

/** What keeps the rollers from a forecast. */
export type NoForecast = 'no-car' | 'no-curves' | 'outside-curve' | 'drag-not-fitted';

/**
 * Engine speed at a road speed, rpm, without slip.
 * @example engineSpeedAt(100 / 3.6, { overallRatio: 4, tyreRadiusM: 0.3 }).toFixed(0) // '3537'
 */
export function engineSpeedAt(
  speed: number,
  { overallRatio, tyreRadiusM }: Pick<RoadCar, 'overallRatio' | 'tyreRadiusM'>,
): number {
  return (speed / (2 * PI * tyreRadiusM)) * overallRatio * 60;
}

/**
 * The forecast from the rollers for a road measure and one candidate: a run with the mean power of each setup, weather correction
 * taken out again, through gear, final drive and tyre. The interval is that of the power over the window, spread over the whole curve.
 * @example roadForecast(newJob('1', 'x'), judgeJob(newJob('1', 'x')), 'B', { id: 'roadTime', fromKmH: 80, toKmH: 120, meaningful: 1 }) // 'no-car'
 */
export function roadForecast(
  job: Job,
  judgement: Judgement,
  candidate: string,
  { fromKmH = NaN, toKmH = NaN }: DeclaredMeasure,
): RoadForecast | NoForecast {
  const { road } = job;
  if (!road) return 'no-car';
  const { baselineSetup } = job.question;
  const [base, other] = [baselineSetup, candidate].map((id) => asDriven(judgement, id));
  if (!base || !other) return 'no-curves';
  const [from, to] = [fromKmH / 3.6, toKmH / 3.6];
  const airDensity = densityOf(job);
  const rotating = rotatingShare(road.overallRatio);
  const loadWith = (dragAreaM2: number): RoadLoad => ({
    ...{ massKg: road.massKg, rolling: road.rolling },
    ...{ rotating, dragAreaM2, airDensity, slope: 0 },
  });
  const powerOf = (curve: GridCurve, share: number) => (v: number) => share * powerAt(curve, engineSpeedAt(v, road));
  const run = (curve: GridCurve, dragAreaM2: number, share = 1) =>
    roadRun(powerOf(curve, share), from, to, loadWith(dragAreaM2));
  if (![from, to].every((v) => [base, other].every((curve) => powerAt(curve, engineSpeedAt(v, road)) > 0)))
    return 'outside-curve';
  const driven = (job.roadPasses ?? []).filter(
    (p) => repeatedSetup(job.setups, p.setupId) === baselineSetup && p.fromKmH === fromKmH && p.toKmH === toKmH,
  );
  const fitted = road.dragAreaM2 === null;
  const drag =
    road.dragAreaM2 ??
    fittedDrag(
      (area) => run(base, area)?.seconds ?? Infinity,
      driven.map((p) => p.seconds),
    );
  if (drag === null) return 'drag-not-fitted';
  const [a, b] = [run(base, drag), run(other, drag)];
  if (!a || !b) return 'outside-curve';
  const gain = judgement.verdicts.find((v) => v.candidate === candidate && v.measure === 'windowMeanPower')?.gain;
  const change = (seconds: number | undefined) => (seconds === undefined ? null : (seconds / a.seconds - 1) * 100);
  // More power is less time: the high end of one is the low end of the other.
  const shareOf = (percent: number | null | undefined) =>
    gain?.percent == null || percent == null ? null : (1 + percent / 100) / (1 + gain.percent / 100);
  const [most, least] = [shareOf(gain?.highPercent), shareOf(gain?.lowPercent)];
  const end = (share: number | null) => (share === null ? null : change(run(other, drag, share)?.seconds));
  const over = (curve: GridCurve, metres: number, share = 1) =>
    roadDistance(powerOf(curve, share), from, metres, loadWith(drag));
  const distances = FORECAST_METRES.flatMap((metres): DistanceForecast[] => {
    const [before, after] = [over(base, metres), over(other, metres)];
    if (!before || !after) return [];
    const endS = (share: number | null) => {
      const there = share === null ? null : over(other, metres, share);
      return there && there.seconds - before.seconds;
    };
    return [
      {
        ...{ metres, baselineS: before.seconds, candidateS: after.seconds, lowS: endS(most), highS: endS(least) },
        ...{ baselineEnd: before.endSpeed, candidateEnd: after.endSpeed },
      },
    ];
  });
  return {
    ...{ baselineS: a.seconds, candidateS: b.seconds, percent: change(b.seconds)! },
    ...{ lowPercent: end(most), highPercent: end(least), distances },
    baselineG: a.meanAcceleration / STANDARD_GRAVITY_M_S2,
    candidateG: b.meanAcceleration / STANDARD_GRAVITY_M_S2,
    ...{
      dragAreaM2: drag,
      fitted,
      airDensity,
      felt: isFelt(a.meanAcceleration, b.meanAcceleration, tolerance(job.method, 'feltPercent') / 100),
    },
  };
}

/** Straight between grid points; NaN outside the curve. */
function powerAt({ first, values }: GridCurve, rpm: number): number {
  const at = rpm / GRID_STEP_RPM - first;
  const i = floor(at);
  if (i < 0 || i + 1 >= values.length) return NaN;
  return values[i]! + (at - i) * (values[i + 1]! - values[i]!);
}

/** Drag areas between which the fit looks, m². */
const DRAG_M2 = [0.05, 5] as const;

/** The drag area with which the baseline's run takes as long as it did on the road, by halving; null where none does. */
function fittedDrag(secondsWith: (areaM2: number) => number, driven: readonly number[]): number | null {
  if (driven.length === 0) return null;
  const wanted = mean(driven);
  let [low, high] = DRAG_M2 as readonly [number, number];
  if (secondsWith(low) > wanted || secondsWith(high) < wanted) return null;
  for (let i = 0; i < 40; i += 1) {
    const middle = (low + high) / 2;
    if (secondsWith(middle) < wanted) low = middle;
    else high = middle;
  }
  return (low + high) / 2;
}

/** How road and rollers stand to each other. */
export type Agreement = 'agree' | 'differ' | 'cannot-tell';

/**
 * Road and rollers beside each other: they differ where the interval of their difference excludes zero, agree where it lies inside
 * what would matter, and otherwise nobody can tell. Half-widths of the two intervals add as squares.
 * @param meaningful size that would matter, true per cent
 * @example agreementOf({ percent: -3, lowPercent: -3.3, highPercent: -2.7 }, { percent: -2.9, lowPercent: -3.4, highPercent: -2.4 }, 1) // 'agree'
 */
export function agreementOf(
  road: Pick<NonNullable<CandidateVerdict['gain']>, 'percent' | 'lowPercent' | 'highPercent'>,
  rollers: Pick<RoadForecast, 'percent' | 'lowPercent' | 'highPercent'>,
  meaningful: number,
): Agreement {
  const half = (of: { lowPercent: number | null; highPercent: number | null }) =>
    of.lowPercent === null || of.highPercent === null ? null : (of.highPercent - of.lowPercent) / 2;
  const [r, f] = [half(road), half(rollers)];
  if (r === null || f === null || road.percent === null) return 'cannot-tell';
  const width = hypot(r, f);
  const apart = abs(road.percent - rollers.percent);
  if (apart > width) return 'differ';
  return apart + width <= meaningful ? 'agree' : 'cannot-tell';
}
