import { levenbergMarquardt } from 'ml-levenberg-marquardt';
import { inverse, Matrix } from 'ml-matrix';
import { mean } from '../statistics/summary.ts';

/** One reading of a recovery: seconds since the pull ended, °C. */
export interface RecoverySample {
  readonly seconds: number;
  readonly celsius: number;
}

/** When a temperature will have fallen to a limit. */
export type CoolDownForecast =
  | { readonly kind: 'met' }
  /** Under half a minute of readings, or a fit that says nothing yet. */
  | { readonly kind: 'too-early' }
  /** The recovery settles above the limit. */
  | { readonly kind: 'not-on-its-own'; readonly settlesAtC: number }
  | {
      readonly kind: 'forecast';
      /** Seconds from the last reading until the limit is met, with a 95 % interval. */
      readonly seconds: number;
      readonly lowSeconds: number;
      readonly highSeconds: number;
      readonly settlesAtC: number;
      readonly timeConstantS: number;
    };

/** What is known of a recovery before its readings speak: °C above the bay's air it settles at, and its time constant. */
export interface RecoveryPrior {
  readonly aboveAirC: number;
  readonly aboveAirSpreadC: number;
  readonly timeConstantS: number;
  /** Spread of the time constant's logarithm. */
  readonly logSpread: number;
}

/** Judgement, no source: an intake behind a fan settles some degrees above the room within ten minutes, give or take half. */
export const USUAL_RECOVERY: RecoveryPrior = {
  aboveAirC: 7,
  aboveAirSpreadC: 5,
  timeConstantS: 540,
  logSpread: 0.5,
};

const LEAST_SECONDS = 30;
const LEAST_READINGS = 6;
/** A climb of the minute's mean that no noise makes, °C. Judgement, no source. */
const RISING_C = 0.25;
/** Sensors count in whole degrees on many cars; a fit is never trusted closer than this, °C. */
const LEAST_NOISE_C = 0.15;

/**
 * Says when a cooling temperature meets a limit. Fits T(t) = T∞ + (T0 − T∞)·e^(−t/t_c) by least squares (Levenberg 1944,
 * Marquardt 1963), T∞ not below the bay's air. Half a minute of readings cannot tell T∞ from t_c, so the prior enters as
 * two further observations; it fades as readings come in. The interval is first-order (delta method).
 *
 * @param samples the recovery, in time order; seconds since the pull ended
 * @param limitC the temperature to fall to, °C
 * @example forecastCoolDown([], 20, 25).kind // 'too-early'
 */
export function forecastCoolDown(
  samples: readonly RecoverySample[],
  bayAirC: number,
  limitC: number,
  prior: RecoveryPrior = USUAL_RECOVERY,
): CoolDownForecast {
  const last = samples.at(-1);
  if (!last) return { kind: 'too-early' };
  if (last.celsius <= limitC) return { kind: 'met' };
  if (last.seconds - samples[0]!.seconds < LEAST_SECONDS || samples.length < LEAST_READINGS)
    return { kind: 'too-early' };
  if (isRising(samples)) return { kind: 'not-on-its-own', settlesAtC: last.celsius };
  if (limitC <= bayAirC) return { kind: 'not-on-its-own', settlesAtC: Math.max(bayAirC, bayAirC + prior.aboveAirC) };
  const falling = sinceTurning(samples);
  const first = falling[0]!;
  if (last.seconds - first.seconds < LEAST_SECONDS || falling.length < LEAST_READINGS) return { kind: 'too-early' };
  const fit = fitRecovery(falling, bayAirC, prior);
  const [settlesAtC, height, logTime] = fit.parameters;
  const timeConstantS = Math.exp(logTime);
  const now = last.seconds - first.seconds;
  const settleError = Math.sqrt(fit.covariance.get(0, 0));
  if (limitC <= settlesAtC + 0.05) {
    // Only a settling temperature that is sure to lie above the limit is called hopeless.
    return settlesAtC - 1.645 * settleError > limitC || now > 2 * timeConstantS
      ? { kind: 'not-on-its-own', settlesAtC }
      : { kind: 'too-early' };
  }
  const share = (limitC - settlesAtC) / height;
  const whole = -timeConstantS * Math.log(share);
  // Derivatives of t* = −t_c·ln((limit − T∞)/height) by T∞, height and ln t_c.
  const gradient = Matrix.columnVector([timeConstantS / (limitC - settlesAtC), timeConstantS / height, whole]);
  const variance = gradient.transpose().mmul(fit.covariance).mmul(gradient).get(0, 0);
  // The fit says the limit was met already and the sensor says it was not: the fit is not worth a forecast.
  if (whole <= now) return { kind: 'too-early' };
  const seconds = whole - now;
  const spread = 1.96 * Math.sqrt(variance);
  if (!Number.isFinite(spread) || spread > 3 * seconds + 240) return { kind: 'too-early' };
  return {
    kind: 'forecast',
    seconds,
    lowSeconds: Math.max(0, seconds - spread),
    highSeconds: seconds + spread,
    settlesAtC,
    timeConstantS,
  };
}

function fitRecovery(samples: readonly RecoverySample[], bayAirC: number, prior: RecoveryPrior) {
  const start = samples[0]!.seconds;
  const noise = noiseOf(samples.map((s) => s.celsius));
  const priorC = bayAirC + prior.aboveAirC;
  // Every observation divided by its spread, the prior as two more: all of them then weigh the same.
  const observed = [
    ...samples.map((s) => s.celsius / noise),
    priorC / prior.aboveAirSpreadC,
    Math.log(prior.timeConstantS) / prior.logSpread,
  ];
  const n = samples.length;
  const model =
    ([settles, height, logTime]: number[]) =>
    (i: number): number => {
      if (i === n) return settles! / prior.aboveAirSpreadC;
      if (i === n + 1) return logTime! / prior.logSpread;
      return (settles! + height! * Math.exp(-(samples[i]!.seconds - start) / Math.exp(logTime!))) / noise;
    };
  const slopes =
    ([, height, logTime]: number[]) =>
    (i: number): number[] => {
      if (i === n) return [1 / prior.aboveAirSpreadC, 0, 0];
      if (i === n + 1) return [0, 0, 1 / prior.logSpread];
      const share = (samples[i]!.seconds - start) / Math.exp(logTime!);
      const fading = Math.exp(-share);
      return [1 / noise, fading / noise, (height! * fading * share) / noise];
    };
  const { parameterValues } = levenbergMarquardt({ x: observed.map((_, i) => i), y: observed }, model, {
    initialValues: [priorC, Math.max(1, samples[0]!.celsius - priorC), Math.log(prior.timeConstantS)],
    minValues: [bayAirC, 0.1, Math.log(30)],
    maxValues: [bayAirC + 120, 400, Math.log(7200)],
    jacobianFunction: slopes,
    maxIterations: 60,
  });
  const jacobian = new Matrix(observed.map((_, i) => slopes(parameterValues)(i)));
  const covariance = inverse(jacobian.transpose().mmul(jacobian));
  return { parameters: parameterValues as [number, number, number], covariance };
}

/** Whether a temperature climbs instead of falling: its last minute lies above the minute before. */
function isRising(samples: readonly RecoverySample[]): boolean {
  const end = samples.at(-1)!.seconds;
  const between = (from: number, to: number) =>
    samples.filter((s) => s.seconds > end - from && s.seconds <= end - to).map((s) => s.celsius);
  const [before, lately] = [between(120, 60), between(60, 0)];
  if (before.length < 3 || lately.length < 3) return false;
  return mean(lately) > mean(before) + RISING_C;
}

/** The part that falls: a soak, or a fan that came back, turns a recovery anew, and what climbed before says nothing of it. */
function sinceTurning(samples: readonly RecoverySample[]): readonly RecoverySample[] {
  const highest = samples.reduce((most, s) => Math.max(most, s.celsius), -Infinity);
  const top = samples.findIndex((s) => s.celsius === highest);
  // The first reading of a fall is its highest anyway; noise moves it by a reading or two, which costs nothing.
  return samples.slice(top);
}

/**
 * Spread of one reading. A sensor that counts in steps repeats itself between two of them: those readings are one piece of
 * knowledge, so each is given the spread of a step (step/√12, the uniform distribution) times the root of how often it was reported.
 */
function noiseOf(y: readonly number[]): number {
  const steps = y.slice(1).flatMap((v, i) => (v === y[i] ? [] : [Math.abs(v - y[i]!)]));
  const step = steps.length > 0 ? Math.min(...steps) : 0;
  const repeats = y.length / (steps.length + 1);
  const counted = repeats > 1.5 ? (step / Math.sqrt(12)) * Math.sqrt(repeats) : 0;
  return Math.max(LEAST_NOISE_C, roughness(y), counted);
}

/** Reading noise from second differences, which a smooth recovery does not have. */
function roughness(y: readonly number[]): number {
  let sum = 0;
  for (let i = 2; i < y.length; i += 1) sum += (y[i]! - 2 * y[i - 1]! + y[i - 2]!) ** 2;
  return Math.sqrt(sum / 6 / Math.max(1, y.length - 2));
}
