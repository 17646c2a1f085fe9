/** Rises with every change of the engine that can move a digit; what was worked out by an older one is worked out again. */
export const ENGINE_VERSION = 1;

/**
 * What the engine assumes of a bay until the bay's own history says better. Each is a setting of the bay.
 * Judgement backed by simulated days, no published source.
 */
export interface VerdictConstants {
  /** Loss per °C of start temperature above the bay's air, %/°C, and its spread between cars. */
  readonly h0: number;
  readonly sh: number;
  /** Drift allowance, %/h. */
  readonly sd: number;
  /** Round-to-round allowance, %; `tauRemounted` when the car was unstrapped in between. */
  readonly tau: number;
  readonly tauRemounted: number;
  /** Drift-shape allowance: the share of a return check's shift that is kept as doubt. */
  readonly kappa: number;
  /** Degrees of freedom credited to the allowances. */
  readonly nuA: number;
  /** Prior pull-to-pull standard deviation, %, and its degrees of freedom. */
  readonly s0: number;
  readonly d0: number;
  /** Added to the variance when start temperatures are missing, %. */
  readonly missingHeat: number;
}

export const DEFAULT_CONSTANTS: VerdictConstants = {
  h0: 0.1,
  sh: 0.07,
  sd: 0.45,
  tau: 0.15,
  tauRemounted: 0.3,
  kappa: 0.25,
  nuA: 20,
  s0: 0.5,
  d0: 6,
  missingHeat: 0.4,
};

/** Temperatures are judged on an additive scale with allowances of their own, °C and °C/h. */
export const TEMPERATURE_CONSTANTS: VerdictConstants = {
  ...DEFAULT_CONSTANTS,
  h0: 0,
  s0: 1,
  tau: 0.5,
  tauRemounted: 1,
  sd: 1,
};

/** Without any bracket the drift allowance saturates after this many hours (judgement). */
export const DRIFT_SATURATION_HOURS = 2;
/** Bands are noisier than the whole window by this factor until history says otherwise. */
export const BAND_NOISE_FACTOR = 1.15;

/**
 * True per cent from log-percent: 100·(e^{v/100} − 1).
 * @example truePercent(2) // 2.02013
 */
export function truePercent(logPercent: number): number {
  return 100 * Math.expm1(logPercent / 100);
}

/**
 * Log-percent from true per cent: 100·ln(1 + p/100).
 * @example logPercent(2) // 1.98026
 */
export function logPercent(percent: number): number {
  return 100 * Math.log1p(percent / 100);
}
