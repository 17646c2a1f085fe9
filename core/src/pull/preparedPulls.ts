import { channelValues, type Bay, type Channel, type Job, type Pull, type Vehicle } from '../job/job.ts';
import { rollOnTrace, type RollOnTrace } from '../measures/rollOn.ts';
import { torqueAtEngineSpeed } from '../units/units.ts';
import { commonSteps } from './commonSteps.ts';
import { finding, type PullFinding } from './findings.ts';
import { fingerprintOf } from './fingerprint.ts';
import { momentsOf, NO_MOMENTS, type PullMoments } from './moments.ts';
import { kindOf } from './pullKind.ts';
import { powerSamples, type PowerSamples } from './wheelPower.ts';
import { usablePull } from './usableWindow.ts';
import { channelReadings, type PullReadings } from '../measures/channelReadings.ts';

/** A pull whose window has been found and summed up; the slow half, done once however often the method changes. */
export interface PreparedPull {
  readonly pull: Pull;
  readonly moments: PullMoments;
  readonly readings: PullReadings;
  readonly findings: readonly PullFinding[];
  /** Two pulls of one fingerprint are one pull under two names; null without samples of speed, power or torque. */
  readonly fingerprint: string | null;
}

/** What is kept of a prepared pull in place of its samples, and what it depends on. */
export interface PullFrame {
  /** The rollers, the car's ratio and what the exporter did to the numbers, as they were. */
  readonly rig: string;
  readonly fingerprint: string | null;
  /** Jumps of torque that every pull of the setup had, rpm. */
  readonly steps: readonly number[];
  /** What is noticed of the pull without knowing of the others of its setup. */
  readonly aloneFindings: readonly PullFinding[];
  readonly findings: readonly PullFinding[];
  readonly moments: PullMoments;
  /** Of its channels. */
  readonly readings: PullReadings;
}

type Rig = Pick<Job, 'bay' | 'vehicle'>;

/**
 * Prepared pulls from one judgement to the next, keyed on everything they depend on: the samples, what the exporter did to the
 * numbers, the rollers, the car's ratio, and what the other pulls of the setup have in common. A change of method, status or
 * question keeps them; a change of the car or the rollers does not. Frames that were kept elsewhere stand in for samples.
 */
export class PreparedPulls {
  #kept = new Map<string, { readonly channels: readonly Channel[] | null; readonly frame: PullFrame }>();

  /** Takes frames that were made before, by pull. */
  take(frames: Iterable<readonly [string, PullFrame]>): void {
    for (const [id, frame] of frames) this.#kept.set(id, { channels: null, frame });
  }

  /** Pulls that cannot be prepared without their samples: no frame stands for them as they are now. */
  missing(job: Pick<Job, 'pulls'> & Rig): string[] {
    const known = (pull: Pull) => this.#known(pull, job);
    const steps = stepsBySetup(job.pulls, (pull) => known(pull)?.aloneFindings ?? []);
    return job.pulls
      .filter((pull) => {
        const frame = known(pull);
        return frame === null || frame.steps.join() !== steps.get(pull.setupId)!.join();
      })
      .map(({ id }) => id);
  }

  /** @returns one entry a pull, in the order of the job; a pull without samples and without a frame has no power */
  of(job: Pick<Job, 'pulls'> & Rig): PreparedPull[] {
    const { pulls } = job;
    const alone = new Map(
      pulls.map((pull) => {
        const frame = this.#known(pull, job);
        return [pull.id, frame ?? prepared(pull, job, [])] as const;
      }),
    );
    const steps = stepsBySetup(pulls, (pull) => alone.get(pull.id)!.aloneFindings);
    const kept = new Map(
      pulls.map((pull) => {
        const own = alone.get(pull.id)!;
        const common = steps.get(pull.setupId)!;
        const frame =
          own.steps.join() === common.join()
            ? own
            : { ...prepared(pull, job, common), aloneFindings: own.aloneFindings };
        const channels = pull.channels.length > 0 ? pull.channels : (this.#kept.get(pull.id)?.channels ?? null);
        return [pull.id, { channels, frame }] as const;
      }),
    );
    this.#kept = kept;
    return pulls.map((pull) => {
      const { moments, readings, findings, fingerprint } = kept.get(pull.id)!.frame;
      return { pull, moments, readings, findings, fingerprint };
    });
  }

  /** What stands for the samples of every pull that is kept. */
  get frames(): ReadonlyMap<string, PullFrame> {
    return new Map([...this.#kept].map(([id, { frame }]) => [id, frame]));
  }

  clear(): void {
    this.#kept = new Map();
  }

  #known(pull: Pull, rig: Rig): PullFrame | null {
    const known = this.#kept.get(pull.id);
    if (!known || known.frame.rig !== rigKey(pull, rig)) return null;
    return pull.channels.length === 0 || pull.channels === known.channels ? known.frame : null;
  }
}

function prepared(pull: Pull, { bay, vehicle }: Rig, steps: readonly number[]): PullFrame {
  const base = { rig: rigKey(pull, { bay, vehicle }), fingerprint: fingerprintOf(pull.channels), steps };
  const readings = channelReadings(pull, vehicle.engineToRollerRatio);
  // What is no sweep has no curve over engine speed.
  if (kindOf(pull) !== 'sweep') {
    const samples = powerSamples(pull, bay, vehicle);
    const rollOn =
      kindOf(pull) === 'roll-on' ? traceOf(samples, channelValues(pull, 'throttle_fraction') ?? null) : null;
    const findings = rollOn?.unsteady
      ? [...samples.findings, finding('unsteady-before', 'warning', {})]
      : samples.findings;
    return { ...base, aloneFindings: findings, findings, moments: NO_MOMENTS, readings: { ...readings, rollOn } };
  }
  const { rpm, powerW, findings, raw } = usablePull(pull, bay, vehicle, steps);
  return { ...base, aloneFindings: findings, findings, moments: momentsOf(rpm, powerW, raw), readings };
}

function traceOf({ rpm, powerW, timeS }: PowerSamples, throttle: Float64Array | null): RollOnTrace | null {
  if (!timeS || rpm.length === 0) return null;
  return rollOnTrace({ timeS, rpm, throttle, torqueNm: powerW.map((p, i) => torqueAtEngineSpeed(p, rpm[i]!)) });
}

function stepsBySetup(pulls: readonly Pull[], findingsOf: (pull: Pull) => readonly PullFinding[]) {
  return new Map(
    [...new Set(pulls.map((p) => p.setupId))].map((setup) => {
      const own = pulls.filter((p) => p.setupId === setup && p.status !== 'set-aside');
      return [setup, commonSteps(own.map(findingsOf))] as const;
    }),
  );
}

/**
 * Prepared pulls that are looked at once.
 * @example preparePulls([newPull('p', 'A', 1)], UNKNOWN_BAY, UNKNOWN_VEHICLE).length // 1
 */
export function preparePulls(pulls: readonly Pull[], bay: Bay, vehicle: Vehicle): PreparedPull[] {
  return new PreparedPulls().of({ pulls, bay, vehicle });
}

function rigKey(pull: Pull, { bay, vehicle }: Rig): string {
  const { kind, rollerInertiaKgM2, readoutScale, lossTorqueNm } = bay;
  const { transmission, engineToRollerRatio } = vehicle;
  const rollers = [kind, rollerInertiaKgM2, readoutScale, lossTorqueNm];
  return JSON.stringify([...rollers, transmission, engineToRollerRatio, pull.numberState, kindOf(pull)]);
}
