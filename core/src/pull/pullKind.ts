import { channelValues, type Pull, type PullKind } from '../job/job.ts';
import { fullThrottle } from '../measures/fullThrottle.ts';

/** A sweep rises by more than this share of its first speed; what does not is held at a speed. Judgement, no source. */
const SWEEP_SHARE = 0.25;
/** Longer than this at one speed is a hold. Judgement. */
const HOLD_S = 60;
/** The throttle opens from under this. */
const CLOSED = 0.5;
const BEFORE_S = 0.3;

/**
 * What a pull is.
 * @example kindOf(newPull('p', 'A', 1)) // 'sweep'
 */
export function kindOf({ kind }: Pick<Pull, 'kind'>): PullKind {
  return kind ?? 'sweep';
}

/**
 * Tells a roll-on and a hold from a sweep by their recording: engine speed hardly rises while the throttle is open. A roll-on has its
 * throttle step in the recording. Where speed, time or throttle was not recorded it is taken for a sweep; a person may correct it.
 * @example detectedKind(newPull('p', 'A', 1)) // 'sweep'
 */
export function detectedKind(pull: Pick<Pull, 'channels'>): PullKind {
  const rpm = channelValues(pull, 'engine_rpm');
  const timeS = channelValues(pull, 'time_s');
  const throttle = channelValues(pull, 'throttle_fraction');
  if (!rpm || !timeS || !throttle) return 'sweep';
  const { from, to } = fullThrottle(pull, rpm);
  if (to - from < 5) return 'sweep';
  let low = Infinity;
  let high = -Infinity;
  for (let i = from; i < to; i += 1) {
    const n = rpm[i]!;
    if (n < low) low = n;
    if (n > high) high = n;
  }
  if (!(low > 0) || high > low * (1 + SWEEP_SHARE)) return 'sweep';
  if (timeS[to - 1]! - timeS[from]! >= HOLD_S) return 'hold';
  const closed = throttle.subarray(0, from).some((v, i) => v < CLOSED && timeS[from]! - timeS[i]! >= BEFORE_S);
  return closed ? 'roll-on' : 'sweep';
}
