import type { Method } from '../job/job.ts';

/** One row of the tolerances table: a number that a house may set for itself. */
export interface Tolerance {
  readonly label: string;
  readonly unit: string;
  readonly usual: number;
  readonly least: number;
  readonly most: number;
}

/** Tolerances in use. Common practice, no source; every one is a setting of the house method. */
export const TOLERANCES = {
  airDriftC: { label: 'Air drift, baseline to after', unit: '°C', usual: 5.6, least: 0.5, most: 10 },
  factorDriftPercent: { label: 'Drift of the correction factor', unit: '%', usual: 1, least: 0.1, most: 3 },
  densityAltitudeDriftM: {
    label: 'Drift of density altitude (0 = not used)',
    unit: 'm',
    usual: 0,
    least: 0,
    most: 600,
  },
  intervalLeastMin: { label: 'Interval between pulls, least', unit: 'min', usual: 2, least: 0, most: 30 },
  intervalMostMin: { label: 'Interval between pulls, most', unit: 'min', usual: 5, least: 1, most: 60 },
  intakeC: { label: 'Intake air start, above the bay’s air', unit: '°C', usual: 3, least: 0.5, most: 10 },
  coolantC: { label: 'Coolant start', unit: '°C', usual: 5, least: 0.5, most: 20 },
  oilC: { label: 'Oil start', unit: '°C', usual: 5, least: 0.5, most: 20 },
  chargeAirWarnC: { label: 'Air after the intercooler, warn', unit: '°C', usual: 75, least: 30, most: 200 },
  chargeAirStopC: { label: 'Air after the intercooler, stop', unit: '°C', usual: 85, least: 30, most: 250 },
  settlePulls: { label: 'Settle pulls per round', unit: '', usual: 2, least: 0, most: 10 },
  countedPulls: { label: 'Counted pulls per setup', unit: '', usual: 3, least: 2, most: 20 },
  coolDownMin: { label: 'Cool-down before a new setup', unit: 'min', usual: 15, least: 0, most: 240 },
  coolDownChargedMin: {
    label: 'Cool-down before a new setup, supercharged',
    unit: 'min',
    usual: 60,
    least: 0,
    most: 240,
  },
  feltPercent: { label: 'Change of acceleration that a driver feels', unit: '%', usual: 5, least: 1, most: 20 },
} as const satisfies Record<string, Tolerance>;
export type ToleranceKey = keyof typeof TOLERANCES;

/** One matter in which practitioners disagree, and the schools a house may follow; the first is the default. */
export interface Disagreement {
  readonly label: string;
  readonly schools: Readonly<Record<string, string>>;
}

/**
 * Where practitioners disagree. The verdict always comes from the engine; these say how the day is run and read. Each acts: on the
 * gates, the plan or the report, or in what the report is obliged to say.
 */
export const DISAGREEMENTS = {
  whichPullsSpeak: {
    label: 'Which pulls speak',
    schools: { modelled: 'modelled mean of all counted pulls', beside: 'the same, the other schools large beside it' },
  },
  firstPull: { label: 'First pull', schools: { recorded: 'recorded, not counted', counts: 'a legitimate result' } },
  peakOrCurve: {
    label: 'Peak or curve',
    schools: { curve: 'curve first', peak: 'peak in the headline’s second line' },
  },
  hood: { label: 'Hood', schools: { closed: 'closed as driven', open: 'open for steady air' } },
  safeties: { label: 'Engine safeties', schools: { on: 'left on, as driven', off: 'off, abort limits armed' } },
  controllerReset: {
    label: 'Controller after the part',
    schools: { leave: 'leave alone', reset: 'reset and drive in' },
  },
  tune: { label: 'Tune', schools: { locked: 'locked for all setups', own: 're-optimised per setup' } },
  load: { label: 'Load', schools: { sweep: 'fast unloaded sweep', loaded: 'slow loaded sweep' } },
  pause: {
    label: 'Pause between pulls',
    schools: { gates: 'until the gates are met', fixed: 'fixed minutes', none: 'none, to provoke heat' },
  },
  stock: {
    label: 'What “stock” is',
    schools: { arrived: 'as arrived', serviced: 'serviced first', tuned: 'already tuned', best: 'the best-known part' },
  },
  rig: { label: 'Rig', schools: { driven: 'as driven', frontOff: 'front end off' } },
  order: {
    label: 'Order of setups',
    schools: { random: 'randomised', fixed: 'fixed', middle: 'baseline again in the middle' },
  },
  lastWord: { label: 'Last word', schools: { rollers: 'rollers', road: 'road check beside it, in the first line' } },
  fuel: { label: 'Fuel', schools: { own: 'the customer’s own', fixed: 'a fixed high-octane fuel' } },
} as const satisfies Record<string, Disagreement>;
export type DisagreementKey = keyof typeof DISAGREEMENTS;

/**
 * A house's value of a tolerance, or the usual one where the method is silent.
 * @example tolerance({ ...DEFAULT_METHOD, gates: { intakeC: 2 } }, 'intakeC') // 2
 */
export function tolerance(method: Pick<Method, 'gates' | 'settlePulls'>, key: ToleranceKey): number {
  if (key === 'settlePulls') return method.settlePulls;
  const own = method.gates[key];
  return typeof own === 'number' && Number.isFinite(own) ? own : TOLERANCES[key].usual;
}

/**
 * The school a house follows in a matter, by its key.
 * @example school({ schools: { peakOrCurve: 'peak' } }, 'peakOrCurve') // 'peak'
 */
export function school(method: Pick<Method, 'schools'>, matter: DisagreementKey): string {
  const own = method.schools?.[matter];
  const known: Readonly<Record<string, string>> = DISAGREEMENTS[matter].schools;
  return own !== undefined && own in known ? own : Object.keys(known)[0]!;
}

/**
 * What is wrong with a method's settings, in words; empty when nothing is.
 * @example methodProblems(DEFAULT_METHOD) // []
 */
export function methodProblems(method: Method): string[] {
  const problems: string[] = [];
  for (const [key, { label, unit, least, most }] of Object.entries(TOLERANCES)) {
    const value = tolerance(method, key as ToleranceKey);
    if (value < least || value > most)
      problems.push(`${label}: ${value} is outside ${least}–${most} ${unit}`.trim() + '.');
  }
  if (tolerance(method, 'intervalLeastMin') > tolerance(method, 'intervalMostMin'))
    problems.push('The least interval between pulls is longer than the most.');
  if (tolerance(method, 'chargeAirWarnC') > tolerance(method, 'chargeAirStopC'))
    problems.push('The warning for charge air lies above its stop.');
  if (school(method, 'firstPull') === 'counts' && method.settlePulls > 0)
    problems.push('The first pull counts as a result, so there can be no settle pulls before it: set them to 0.');
  for (const [matter, value] of Object.entries(method.schools ?? {})) {
    // A matter that this version does not know came with a package: it is kept and acts nowhere.
    const known = DISAGREEMENTS[matter as DisagreementKey] as Disagreement | undefined;
    if (known && !(value in known.schools)) problems.push(`"${value}" is no school of "${known.label}".`);
  }
  return problems;
}
