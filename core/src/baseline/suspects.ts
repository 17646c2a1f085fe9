import type { Vehicle } from '../job/job.ts';

/** Something that makes a car read low: how long it takes to look, and how likely it is to be it. */
export interface Suspect {
  readonly key: string;
  readonly label: string;
  readonly minutes: number;
  /** Chance that it is this one, 0–1, among all of them. */
  readonly likelihood: number;
}

/** What somebody found when looking. */
export interface SuspectLooked {
  readonly suspect: string;
  readonly result: 'fine' | 'found';
  readonly who: string;
  /** ISO 8601 instant. */
  readonly at: string;
}

/**
 * What is looked at when a baseline repeats but reads low. The suspects are common practice, no source; their minutes and
 * chances are judgement.
 */
const SUSPECTS: readonly (Suspect & { readonly boostedOnly?: boolean })[] = [
  { key: 'aids', label: 'Drive mode, traction control, automatic braking by the fan', minutes: 5, likelihood: 0.15 },
  { key: 'tyres', label: 'Tyre pressure and type', minutes: 5, likelihood: 0.1 },
  { key: 'gear', label: 'Gear, rpm pickup and its ground', minutes: 8, likelihood: 0.1 },
  { key: 'straps', label: 'Straps too tight, or a brake that drags', minutes: 10, likelihood: 0.13 },
  { key: 'filter', label: 'Air filter dirty or over-oiled', minutes: 10, likelihood: 0.12 },
  { key: 'fuel', label: 'Fuel: grade, age, and what the controller has learned of it', minutes: 20, likelihood: 0.12 },
  { key: 'boost', label: 'Boost leak: hoses, clamps, bypass valve', minutes: 20, likelihood: 0.15, boostedOnly: true },
  { key: 'exhaust', label: 'An insert or a blockage left in the exhaust', minutes: 15, likelihood: 0.06 },
  { key: 'leaks', label: 'Inlet leak behind the air meter', minutes: 25, likelihood: 0.08 },
  { key: 'ignition', label: 'Plugs and coils', minutes: 45, likelihood: 0.08 },
  { key: 'oils', label: 'Grade of engine and gear oil', minutes: 40, likelihood: 0.05 },
];

/**
 * The suspects of a car in the order in which they are looked at.
 * @example suspectsFor({ aspiration: 'natural' }).some((s) => s.key === 'boost') // false
 */
export function suspectsFor(vehicle: Pick<Vehicle, 'aspiration'>): Suspect[] {
  const boosted = vehicle.aspiration === 'turbo' || vehicle.aspiration === 'supercharged';
  return cheapestFirst(
    SUSPECTS.filter((s) => boosted || !s.boostedOnly).map(({ key, label, minutes, likelihood }) => ({
      key,
      label,
      minutes,
      likelihood,
    })),
  );
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

/**
 * The suspects that nobody has cleared; empty once the culprit was found.
 * @example suspectsLeft({ aspiration: 'natural' }, suspectsFor({ aspiration: 'natural' }).map((s) => ({ suspect: s.key, result: 'fine', who: 'x', at: '' }))).length // 0
 */
export function suspectsLeft(vehicle: Pick<Vehicle, 'aspiration'>, looked: readonly SuspectLooked[]): Suspect[] {
  if (looked.some((l) => l.result === 'found')) return [];
  return suspectsFor(vehicle).filter((s) => !looked.some((l) => l.suspect === s.key));
}
