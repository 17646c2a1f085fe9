import type { Vehicle } from '../job/job.ts';

/** What a car is brought for, or what a bay finds about it. `other`: the words say it. */
export const COMPLAINTS = ['reads-low', 'smoke', 'slow-to-boost', 'runs-hot', 'other'] as const;
export type Complaint = (typeof COMPLAINTS)[number];

/** Something that may be behind a complaint: how long it takes to look, and how likely it is to be it. */
export interface Suspect {
  readonly key: string;
  readonly label: string;
  readonly minutes: number;
  /** Chance that it is this one, 0–1, among all of them. */
  readonly likelihood: number;
}

/** What earlier searches of the same complaint say of a suspect. */
export interface SuspectRecord {
  readonly suspect: string;
  /** Times that somebody looked, and times that it was it: on cars of this model, and on all others. */
  readonly own: { readonly looks: number; readonly cures: number };
  readonly others: { readonly looks: number; readonly cures: number };
}

interface Known extends Suspect {
  readonly of: readonly Complaint[];
  readonly boostedOnly?: boolean;
}

const known = (
  key: string,
  label: string,
  minutes: number,
  likelihood: number,
  of: readonly Complaint[],
  boostedOnly = false,
): Known => ({ key, label, minutes, likelihood, of, boostedOnly });

/**
 * What is looked at, by complaint. The suspects are common practice, no source; their minutes and chances are judgement, and give
 * way to what was found on cars.
 */
const SUSPECTS: readonly Known[] = [
  known('aids', 'Drive mode, traction control, automatic braking by the fan', 5, 0.15, ['reads-low']),
  known('tyres', 'Tyre pressure and type', 5, 0.1, ['reads-low']),
  known('gear', 'Gear, rpm pickup and its ground', 8, 0.1, ['reads-low']),
  known('straps', 'Straps too tight, or a brake that drags', 10, 0.13, ['reads-low']),
  known('filter', 'Air filter dirty or over-oiled', 10, 0.12, ['reads-low', 'smoke', 'slow-to-boost']),
  known('fuel', 'Fuel: grade, age, and what the controller has learned of it', 20, 0.12, ['reads-low', 'other']),
  known('boost', 'Boost leak: hoses, clamps, bypass valve', 20, 0.25, ['reads-low', 'slow-to-boost', 'smoke'], true),
  known('exhaust', 'An insert or a blockage left in the exhaust', 15, 0.06, ['reads-low', 'slow-to-boost', 'runs-hot']),
  known('leaks', 'Inlet leak behind the air meter', 25, 0.08, ['reads-low', 'slow-to-boost', 'other']),
  known('ignition', 'Plugs and coils', 45, 0.08, ['reads-low', 'smoke', 'other']),
  known('oils', 'Grade of engine and gear oil', 40, 0.05, ['reads-low']),
  known('actuator', 'Actuator: rod, preload, its hose', 15, 0.25, ['slow-to-boost'], true),
  known('wastegate', 'Wastegate that does not close', 30, 0.15, ['slow-to-boost'], true),
  known('turbo', 'Turbocharger: shaft play, a damaged wheel', 40, 0.1, ['slow-to-boost', 'smoke'], true),
  known('oil-level', 'Oil above its mark, or the wrong one', 5, 0.15, ['smoke']),
  known('breather', 'Crankcase breather blocked', 15, 0.2, ['smoke']),
  known('mixture', 'Mixture: injectors, air meter, a stuck sensor', 30, 0.2, ['smoke', 'runs-hot', 'other']),
  known('coolant', 'Coolant level, air in the system', 10, 0.25, ['runs-hot']),
  known('fan', 'Fan of the car, its relay and shroud', 10, 0.2, ['runs-hot']),
  known('thermostat', 'Thermostat that does not open', 40, 0.15, ['runs-hot']),
  known('timing', 'Ignition or cam timing off its mark', 60, 0.08, ['runs-hot', 'reads-low', 'other']),
  known('codes', 'Stored fault codes and live values', 10, 0.25, ['other', 'slow-to-boost', 'runs-hot']),
];

/** Weight of the prior chance, in looks (judgement). */
const PRIOR_LOOKS = 4;
/** What a look at a car of another model counts. */
const OTHERS_COUNT = 0.25;

/**
 * The chance of a suspect once searches have said something of it: (a + cures)/(a + b + looks) with a + b = 4 and a/(a + b) the prior
 * chance; looks and cures on cars of other models count a quarter (a Beta prior; Gelman et al. 2013, Bayesian Data Analysis,
 * section 2.1; the weights are judgement).
 *
 * @param likelihood prior chance, 0–1
 * @example learnedChance(0.25, { suspect: 'x', own: { looks: 4, cures: 3 }, others: { looks: 0, cures: 0 } }) // 0.5
 */
export function learnedChance(likelihood: number, seen: SuspectRecord | undefined): number {
  if (!seen) return likelihood;
  const cures = seen.own.cures + OTHERS_COUNT * seen.others.cures;
  const looks = seen.own.looks + OTHERS_COUNT * seen.others.looks;
  return (PRIOR_LOOKS * likelihood + cures) / (PRIOR_LOOKS + looks);
}

/**
 * The suspects of a complaint on a car in the order in which they are looked at, with what earlier searches say of them.
 * @example suspectsFor({ aspiration: 'natural' }).some((s) => s.key === 'boost') // false
 */
export function suspectsFor(
  vehicle: Pick<Vehicle, 'aspiration'>,
  complaint: Complaint = 'reads-low',
  seen: readonly SuspectRecord[] = [],
): Suspect[] {
  const boosted = vehicle.aspiration === 'turbo' || vehicle.aspiration === 'supercharged';
  return cheapestFirst(
    SUSPECTS.filter((s) => s.of.includes(complaint) && (boosted || !s.boostedOnly)).map(
      ({ key, label, minutes, likelihood }) => ({
        ...{ key, label, minutes },
        likelihood: learnedChance(
          likelihood,
          seen.find((r) => r.suspect === key),
        ),
      }),
    ),
  );
}

/**
 * What a suspect is called; its key for one that this version does not know.
 * @example suspectLabel('tyres') // 'Tyre pressure and type'
 */
export function suspectLabel(key: string): string {
  return SUSPECTS.find((s) => s.key === key)?.label ?? key;
}

/**
 * Cheapest per chance first: the order of rising minutes over likelihood has the least expected time until the one culprit is
 * found (the ratio rule; Smith 1956, Naval Research Logistics Quarterly 3, for the equivalent weighted sum of completion
 * times; citation from memory).
 * @example cheapestFirst(suspectsFor({ aspiration: 'turbo' }))[0].key // 'aids'
 */
export function cheapestFirst(suspects: readonly Suspect[]): Suspect[] {
  return [...suspects].sort(
    (a, b) => a.minutes * b.likelihood - b.minutes * a.likelihood || (a.key < b.key ? -1 : a.key > b.key ? 1 : 0),
  );
}
