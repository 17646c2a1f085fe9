import { channelValues, type Bay, type Pull, type Vehicle } from '../job/job.ts';
import { localSlopes } from '../statistics/localSlopes.ts';
import { median } from '../statistics/summary.ts';
import { radPerSecond } from '../units/units.ts';
import { finding, type PullFinding, type WithoutPower } from './findings.ts';

// Bound once: the numeric loops below call them millions of times.
const { PI, abs, ceil, max, min } = Math;

/** Width in rpm over which roller acceleration is fitted. */
export const DERIVATIVE_WIDTH_RPM = 60;

/** Samples of a pull before any window is chosen: engine speed, uncorrected wheel power, and time when there is one. */
export interface PowerSamples {
  readonly rpm: Float64Array;
  readonly powerW: Float64Array;
  readonly timeS: Float64Array | null;
  readonly rollerRadS: Float64Array | null;
  readonly findings: readonly PullFinding[];
}

/**
 * Uncorrected wheel power of every sample, W. A power or torque column is taken as it stands (with what the exporter did
 * to it divided out); otherwise P = J·ω·dω/dt + T_brake·ω + ω·T_loss(ω) from the roller, never from first differences.
 */
export function powerSamples(pull: Pull, bay: Bay, vehicle: Vehicle): PowerSamples {
  const findings: PullFinding[] = [];
  const timeS = channelValues(pull, 'time_s') ?? null;
  const rollerRadS = channelValues(pull, 'roller_rad_s') ?? null;
  const rpm = channelValues(pull, 'engine_rpm') ?? rpmFromRoller(rollerRadS, vehicle.engineToRollerRatio);
  const power = channelValues(pull, 'wheel_power_w');
  const torque = channelValues(pull, 'wheel_torque_nm');
  const divisor = numberDivisor(pull) * bay.readoutScale;
  let powerW: Float64Array | null = null;
  if (rpm && (power || torque)) {
    powerW = rpm.map((n, i) => (power ? power[i]! : torque![i]! * radPerSecond(n)) / divisor);
    if (power && torque && disagree(rpm, power, torque)) {
      findings.push(finding('numbers-disagree', 'warning', {}));
    }
  } else if (rpm && rollerRadS && timeS && bay.rollerInertiaKgM2) {
    powerW = rollerPower(timeS, rollerRadS, rpm, channelValues(pull, 'brake_nm') ?? null, bay);
    if (!bay.lossTorqueNm) {
      findings.push(finding('no-loss-data', 'info', {}));
    }
  }
  if (!rpm || !powerW) {
    findings.push(finding('no-power', 'blocking', { why: reasonWithoutPower(rpm, rollerRadS, timeS, bay) }));
    return { rpm: new Float64Array(), powerW: new Float64Array(), timeS: null, rollerRadS: null, findings };
  }
  return { rpm, powerW, timeS, rollerRadS, findings };
}

function reasonWithoutPower(
  rpm: Float64Array | null,
  roller: Float64Array | null,
  timeS: Float64Array | null,
  bay: Bay,
): WithoutPower {
  if (!rpm) return 'no-engine-speed';
  if (roller && !timeS) return 'no-time';
  if (roller && !bay.rollerInertiaKgM2) return 'no-inertia';
  return 'nothing-recorded';
}

/** What the recorded numbers must be divided by to be uncorrected. Unknown stays as it is and is never corrected again. */
function numberDivisor(pull: Pull): number {
  const state = pull.numberState;
  return state.kind === 'corrected' || state.kind === 'scaled' ? state.factor : 1;
}

function rpmFromRoller(roller: Float64Array | null, ratio: number | null): Float64Array | null {
  return roller && ratio ? Float64Array.from(roller, (w) => (w * ratio * 30) / PI) : null;
}

function disagree(rpm: Float64Array, power: Float64Array, torque: Float64Array): boolean {
  const ratios: number[] = [];
  for (let i = 0; i < rpm.length; i += 1) {
    const expected = torque[i]! * radPerSecond(rpm[i]!);
    if (Number.isFinite(expected) && expected > 0 && power[i]! > 0) ratios.push(power[i]! / expected);
  }
  return ratios.length > 0 && abs(median(ratios) - 1) > 0.02;
}

/**
 * P = J·ω·dω/dt + T_brake·ω + ω·T_loss(ω). dω/dt by least squares of a quadratic in time (Savitzky & Golay 1964) over the
 * samples that span half of 60 rpm on each side, at least 5, one-sided at the ends.
 */
function rollerPower(
  timeS: Float64Array,
  omega: Float64Array,
  rpm: Float64Array,
  brakeNm: Float64Array | null,
  bay: Bay,
): Float64Array {
  const [c0, c1, c2] = bay.lossTorqueNm ?? [0, 0, 0];
  const inertia = bay.rollerInertiaKgM2!;
  const n = timeS.length;
  const half = new Uint16Array(n);
  for (let i = 0; i < n; i += 1) {
    const low = max(0, i - 5);
    const high = min(n - 1, i + 5);
    const perSample = abs(rpm[high]! - rpm[low]!) / max(1, high - low);
    half[i] = min(400, max(5, ceil(DERIVATIVE_WIDTH_RPM / 2 / max(perSample, 1e-3))));
  }
  const power = localSlopes(timeS, omega, half);
  for (let i = 0; i < n; i += 1) {
    const w = omega[i]!;
    const brake = brakeNm ? brakeNm[i]! : 0;
    power[i] = w * (inertia * power[i]! + brake + c0 + c1 * w + c2 * w * w);
  }
  return power;
}
