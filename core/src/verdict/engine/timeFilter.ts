const { log } = Math;

/** A day's pulls in the order of time: what one pull hands on to the next. */
export interface Course {
  /** What is left of the walk since the pull before; 1 for the first. */
  readonly decay: Float64Array;
  /** 1 where a round begins: its mount is another one. */
  readonly fresh: Uint8Array;
}

/** Variances of scatter, of a mount and of the walk, log-percent². */
export interface Amounts {
  readonly scatter: number;
  readonly mount: number;
  readonly walk: number;
}

/**
 * V₀ = σ²·I + τ²·[same round] + walk, as L·S·Lᵀ: the walk of the drift and the mount of a round depend on what was before through the
 * last pull alone, so that a filter with these two states takes V₀ apart along time (Durbin & Koopman 2012, Time Series Analysis by
 * State Space Methods, 4.3).
 */
export interface TimeFilter {
  /** S: variance of what is new in each pull. */
  readonly variance: Float64Array;
  /** By how much it moves the two states. */
  readonly walkGain: Float64Array;
  readonly mountGain: Float64Array;
  readonly logDeterminant: number;
}

export function timeFilter({ decay, fresh }: Course, { scatter, mount, walk }: Amounts): TimeFilter {
  const n = decay.length;
  const variance = new Float64Array(n);
  const walkGain = new Float64Array(n);
  const mountGain = new Float64Array(n);
  // Variances of the two states and what they share, as far as the pulls before tell.
  let ww = walk;
  let wm = 0;
  let mm = mount;
  let logDeterminant = 0;
  for (let i = 0; i < n; i += 1) {
    const a = decay[i]!;
    ww = a * a * ww + (1 - a * a) * walk;
    wm = fresh[i] ? 0 : a * wm;
    if (fresh[i]) mm = mount;
    const s = ww + 2 * wm + mm + scatter;
    const kw = (ww + wm) / s;
    const km = (wm + mm) / s;
    ww -= kw * kw * s;
    wm -= kw * km * s;
    mm -= km * km * s;
    variance[i] = s;
    walkGain[i] = kw;
    mountGain[i] = km;
    logDeterminant += log(s);
  }
  return { variance, walkGain, mountGain, logDeterminant };
}

/** L⁻¹·v in place: of every pull what is new in it. */
export function forth({ decay, fresh }: Course, { walkGain, mountGain }: TimeFilter, v: Float64Array): void {
  let walk = 0;
  let mount = 0;
  for (let i = 0; i < v.length; i += 1) {
    walk *= decay[i]!;
    if (fresh[i] === 1) mount = 0;
    const news = v[i]! - walk - mount;
    walk += walkGain[i]! * news;
    mount += mountGain[i]! * news;
    v[i] = news;
  }
}

/** L⁻ᵀ·S⁻¹·v in place: after `forth` it is V₀⁻¹ times what it was. */
export function back({ decay, fresh }: Course, { variance, walkGain, mountGain }: TimeFilter, v: Float64Array): void {
  let walk = 0;
  let mount = 0;
  for (let i = v.length - 1; i >= 0; i -= 1) {
    const own = v[i]! / variance[i]! + walkGain[i]! * walk + mountGain[i]! * mount;
    v[i] = own;
    walk = decay[i]! * (walk - own);
    mount = fresh[i] === 1 ? 0 : mount - own;
  }
}

/** The diagonal of V₀⁻¹ (Durbin & Koopman 2012, 4.5). */
export function inverseDiagonal({ decay, fresh }: Course, { variance, walkGain, mountGain }: TimeFilter): Float64Array {
  const n = variance.length;
  const diagonal = new Float64Array(n);
  // N: what the later pulls tell of the two states after a pull.
  let ww = 0;
  let wm = 0;
  let mm = 0;
  for (let i = n - 1; i >= 0; i -= 1) {
    const kw = walkGain[i]!;
    const km = mountGain[i]!;
    const nw = ww * kw + wm * km;
    const nm = wm * kw + mm * km;
    const own = 1 / variance[i]! + kw * nw + km * nm;
    diagonal[i] = own;
    // (I − k·hᵀ)ᵀ·N·(I − k·hᵀ) + h·hᵀ/S with h = (1, 1); then back over the time between the pulls.
    const a = decay[i]!;
    ww = a * a * (ww - 2 * nw + own);
    wm = fresh[i] ? 0 : a * (wm - nw - nm + own);
    mm = fresh[i] ? 0 : mm - 2 * nm + own;
  }
  return diagonal;
}
