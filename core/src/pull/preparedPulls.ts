import type { Bay, Channel, Job, Pull, Vehicle } from '../job/job.ts';
import { commonSteps } from './commonSteps.ts';
import { usablePull, type UsablePull } from './usableWindow.ts';

/** A pull whose window has been found; the slow half, done once however often the averaging width changes. */
export interface PreparedPull {
  readonly pull: Pull;
  readonly usable: UsablePull;
}

interface Kept {
  readonly channels: readonly Channel[];
  readonly numberState: string;
  /** Judged on its own, and with the steps that every pull of its setup has. */
  readonly alone: UsablePull;
  readonly steps: string;
  readonly usable: UsablePull;
}

/**
 * Usable windows from one judgement to the next, keyed on everything they depend on: the samples, what the exporter did to the
 * numbers, the rollers, the car's ratio, and what the other pulls of the setup have in common. A change of method, status or
 * question keeps them; a change of the car or the rollers does not.
 */
export class PreparedPulls {
  #rig = '';
  #kept = new Map<string, Kept>();

  /** @returns one entry a pull, in the order of the job */
  of({ pulls, bay, vehicle }: Pick<Job, 'pulls' | 'bay' | 'vehicle'>): PreparedPull[] {
    const rig = rigKey(bay, vehicle);
    const before = rig === this.#rig ? this.#kept : new Map<string, Kept>();
    this.#rig = rig;
    const alone = new Map(
      pulls.map((pull) => {
        const known = before.get(pull.id);
        return [pull.id, known && same(known, pull) ? known.alone : usablePull(pull, bay, vehicle)] as const;
      }),
    );
    const stepsOf = new Map(
      [...new Set(pulls.map((p) => p.setupId))].map((setup) => {
        const own = pulls.filter((p) => p.setupId === setup && p.status !== 'set-aside');
        return [setup, commonSteps(own.map((p) => alone.get(p.id)!.findings))] as const;
      }),
    );
    const kept = new Map<string, Kept>();
    for (const pull of pulls) {
      const steps = stepsOf.get(pull.setupId)!;
      const known = before.get(pull.id);
      const own = { alone: alone.get(pull.id)!, steps: steps.join() };
      const usable =
        steps.length === 0
          ? own.alone
          : known && same(known, pull) && known.steps === own.steps
            ? known.usable
            : usablePull(pull, bay, vehicle, steps);
      kept.set(pull.id, { channels: pull.channels, numberState: JSON.stringify(pull.numberState), ...own, usable });
    }
    this.#kept = kept;
    return pulls.map((pull) => ({ pull, usable: kept.get(pull.id)!.usable }));
  }

  /** The samples of every pull that is kept, by pull, so that they need not be read again. */
  get samples(): ReadonlyMap<string, readonly Channel[]> {
    return new Map([...this.#kept].map(([id, { channels }]) => [id, channels]));
  }

  clear(): void {
    this.#kept = new Map();
  }
}

/**
 * Usable windows of pulls that are looked at once.
 * @example preparePulls([newPull('p', 'A', 1)], UNKNOWN_BAY, UNKNOWN_VEHICLE).length // 1
 */
export function preparePulls(pulls: readonly Pull[], bay: Bay, vehicle: Vehicle): PreparedPull[] {
  return new PreparedPulls().of({ pulls, bay, vehicle });
}

function same(known: Kept, pull: Pull): boolean {
  return known.channels === pull.channels && known.numberState === JSON.stringify(pull.numberState);
}

function rigKey(bay: Bay, vehicle: Vehicle): string {
  const { kind, rollerInertiaKgM2, readoutScale, lossTorqueNm } = bay;
  const { transmission, engineToRollerRatio } = vehicle;
  return JSON.stringify([kind, rollerInertiaKgM2, readoutScale, lossTorqueNm, transmission, engineToRollerRatio]);
}
