import {
  DEFAULT_QUESTION,
  suspectsFor,
  tolerance,
  USUAL_DAY,
  type FaultSearch,
  type Job,
  type Pull,
  type Setup,
} from '@prandel/core';
import { simulateDay } from '../day/simulateDay.ts';
import type { DaySpec, RoundSpec } from '../day/spec.ts';
import { DEMO_STATE, ROLLERS } from '../demo/demoCars.ts';
import { returnOf, setup } from '../demo/demoParts.ts';
import { Random } from '../random.ts';
import { YEAR_MODELS, type YearModel } from './models.ts';
import { YEAR_PARTS, type YearPart } from './parts.ts';

/** A day of the two years: the job's spec, and what its part really did on this car, log-percent. */
export interface YearDay {
  readonly spec: DaySpec;
  readonly model: YearModel;
  readonly customer: string | null;
  /** Null for a round of the reference car. */
  readonly part: YearPart | null;
  readonly effect: number;
  /** The part was one of several changes of its step. */
  readonly bundled: boolean;
  /** Somebody had to look for a fault first. */
  readonly search: FaultSearch | null;
}

/** What ails cars of some models more than others: the culprit that a search ends with, most of the time. */
const AILMENTS: Readonly<Record<string, readonly [FaultSearch['complaint'], string]>> = {
  'Ambry Sirra turbo': ['slow-to-boost', 'actuator'],
  'Ambry Mistral turbo': ['slow-to-boost', 'boost'],
  'Pellow Carrow 1.6': ['reads-low', 'filter'],
  'Dorsin Keld 2.2': ['runs-hot', 'fan'],
  'Tarn Siskin 1.4': ['reads-low', 'straps'],
  'Hesk Rill 1.2': ['smoke', 'breather'],
};

/** The bay in the epoch before the demo's own: it drifted in its last months, until the reference car showed it. */
export const EARLIER_EPOCH = '2024-09-15';
const FIRST = Date.UTC(2024, 9, 1);
const LAST = Date.UTC(2026, 7, 28);
/** When the rollers were calibrated anew, milliseconds since 1970. */
export const RECALIBRATED = Date.UTC(2026, 2, 1);
/** From when the rollers read ever less, and how much less they read in the end, per cent. */
const [DRIFTS_FROM, DRIFTS_BY] = [Date.UTC(2025, 8, 1), 3.2];
const DAY_MS = 86_400_000;

export const REFERENCE_CAR = 'Tarn Vireo 1.8, the shop’s own';
const FIRST_NAMES = [
  'Ada',
  'Bo',
  'Cleo',
  'Dov',
  'Enid',
  'Finn',
  'Gus',
  'Hal',
  'Ida',
  'Jori',
  'Kip',
  'Lena',
  'Milo',
  'Nan',
];
const LETTERS = ['B.', 'C.', 'D.', 'F.', 'H.', 'K.', 'P.', 'S.', 'W.'];

/** What the rollers read against what they should, by the day. */
function readout(at: number): number {
  if (at >= RECALIBRATED || at < DRIFTS_FROM) return 1;
  return 1 - (DRIFTS_BY / 100) * ((at - DRIFTS_FROM) / (RECALIBRATED - DRIFTS_FROM));
}

const pick = <T>(random: Random, list: readonly T[]): T => list[Math.floor(random.uniform() * list.length)]!;

/**
 * Two years of the demo shop before its own jobs: some 155 jobs on cars of 14 models with 25 parts whose effects differ between
 * cars, a monthly round of the shop's own car, and rollers that drift once and are calibrated anew. The same seed gives the same
 * years. Everything is invented.
 */
export function twoYears(seed = 20241001): YearDay[] {
  const random = new Random(seed);
  const days = YEAR_PARTS.flatMap((part) => {
    const fitting = YEAR_MODELS.filter((m) => m.boosted || !part.boostedOnly);
    return Array.from({ length: part.cars }, () => ({ part, model: pick(random, fitting), at: 0 }));
  });
  for (const day of days) day.at = Math.floor((FIRST + random.uniform() * (LAST - FIRST)) / DAY_MS) * DAY_MS;
  const jobs = days.sort((a, b) => a.at - b.at).map(({ part, model, at }, i) => partDay(random, part, model, at, i));
  return [...jobs, ...referenceDays(random)].sort((a, b) => Date.parse(a.spec.date) - Date.parse(b.spec.date));
}

/** The job of a day as the shop recorded it. */
export function yearJob({ spec, model, customer, part, search }: YearDay): Job {
  const job = simulateDay(spec);
  return {
    ...job,
    pulls: job.pulls.map((pull) => ({ ...pull, ...heldBefore(pull, job) })),
    day: {
      ...USUAL_DAY,
      modelCard: model.card,
      ...(customer === null ? {} : { customer }),
      ...(search ? { searches: [search] } : {}),
      ...(part?.promisedPercent ? { claim: `The maker promises ${part.promisedPercent} %.` } : {}),
    },
  };
}

/** Hot bays keep their pulls waiting for the intake, °C from which and seconds for each degree; the shortest pause waits always. */
const [WAITS_ABOVE_C, WAITS_S_PER_C] = [21, 14];

function heldBefore({ position, airC }: Pull, { method }: Job): Pick<Pull, 'heldS'> {
  if (position === 1) return {};
  const intakeC = Math.round(WAITS_S_PER_C * Math.max(0, (airC ?? 0) - WAITS_ABOVE_C));
  return { heldS: { ...(intakeC > 0 ? { intakeC } : {}), interval: 60 * tolerance(method, 'intervalLeastMin') } };
}

function partDay(random: Random, part: YearPart, model: YearModel, at: number, i: number): YearDay {
  const effect = part.effect + random.normal(part.spread);
  const bundled = random.uniform() < 0.06;
  const takenOff = part.hours <= 1.5 || random.uniform() < 0.35;
  const counted = random.uniform() < 0.75 ? 3 : 4;
  const gap = 30 + 60 * part.hours;
  const plate = `${String.fromCharCode(65 + Math.floor(random.uniform() * 26))}Q ${100 + Math.floor(random.uniform() * 900)}`;
  const rounds: RoundSpec[] = [
    { setup: 'A', settle: 2, counted, startMinute: 0, minutesPerPull: 5 },
    { setup: 'B', settle: 2, counted, startMinute: 25 + gap, minutesPerPull: 5 },
    ...(takenOff ? [{ setup: 'A2', settle: 1, counted: 2, startMinute: 50 + 2 * gap, minutesPerPull: 5 }] : []),
  ];
  const setups: Setup[] = [
    setup('A', 'as arrived', ''),
    setup('B', part.name, `part fitted: ${part.name}${bundled ? '; tune: written for it' : ''}`, {
      ...{ partCost: part.price, labourHours: part.hours, currency: 'EUR' },
      ...(bundled ? { state: { ...DEMO_STATE, tuneDigest: 'b7741e' } } : {}),
    }),
    ...(takenOff ? [returnOf('A2')] : []),
  ];
  const own = Math.exp(random.normal(0.018));
  const spec = daySpec(random, model, at, own, {
    seed: 50_000 + i,
    id: `QG-${new Date(at).toISOString().slice(2, 10).replaceAll('-', '')}-${i + 1}`,
    title: `Does the ${part.name} bring power?`,
    vehicle: { ...model.vehicle, label: `${model.label} ${plate}` },
    ...{ setups, rounds },
    effects: { B: () => 100 * Math.expm1((effect + (bundled ? 1.5 : 0)) / 100) },
    question: {
      ...DEFAULT_QUESTION,
      text: `What does the ${part.name} do for the power at the wheels?`,
      windowRpm: [...model.windowRpm],
      partChangesIntakeTemperature: part.kind === 'boost',
      plan: rounds.map(({ setup: id, settle, counted: n }) => ({ setup: id, settle, counted: n })),
    },
  });
  const customer = `${pick(random, FIRST_NAMES)} ${pick(random, LETTERS)}`;
  return { spec, model, customer, part, effect, bundled, search: searchOf(random, model, spec.date) };
}

/** A search before the pulls: cheapest per chance first, until the culprit is there; some are given up. */
function searchOf(random: Random, model: YearModel, date: string): FaultSearch | null {
  const [complaint, usual] = AILMENTS[model.label] ?? ['reads-low', 'tyres'];
  if (random.uniform() > (model.label in AILMENTS ? 0.45 : 0.06)) return null;
  const suspects = suspectsFor(model.vehicle, complaint);
  const culprit = random.uniform() < 0.7 ? usual : pick(random, suspects).key;
  const found = suspects.findIndex((s) => s.key === culprit);
  const looked = suspects.slice(0, found < 0 ? 4 : found + 1);
  const at = (minute: number) => new Date(Date.parse(date) - (90 - minute) * 60_000).toISOString();
  const result = (key: string) => (key === culprit ? 'cured' : 'fine');
  let minute = 0;
  const looks = looked.map(({ key, minutes }) => {
    minute += minutes;
    return { suspect: key, result: result(key), minutes, pull: null, who: 'Tom K.', at: at(minute) } as const;
  });
  return {
    ...{ complaint, words: '', budgetMinutes: 90, looks, openedAt: at(0), openedBy: 'Ines R.' },
    closedAt: at(minute),
  };
}

/** A short round of the shop's own car at the end of every month. */
function referenceDays(random: Random): YearDay[] {
  const model = YEAR_MODELS[0]!;
  const days: YearDay[] = [];
  for (let month = 0; ; month += 1) {
    const at = Date.UTC(2024, 10 + month, 0);
    if (at > LAST) return days;
    const rounds: RoundSpec[] = [{ setup: 'A', settle: 1, counted: 3, startMinute: 0, minutesPerPull: 5 }];
    const spec = daySpec(random, model, at, 1, {
      seed: 90_000 + month,
      id: `QG-REF-${new Date(at).toISOString().slice(0, 7)}`,
      title: 'A round of the shop’s own car',
      vehicle: { ...model.vehicle, label: REFERENCE_CAR },
      setups: [setup('A', 'as always', '')],
      ...{ rounds, effects: {} },
      question: {
        ...DEFAULT_QUESTION,
        text: 'Does the bay still read what it read?',
        ...{ candidateSetups: [], windowRpm: [...model.windowRpm] },
        plan: [{ setup: 'A', settle: 1, counted: 3 }],
      },
    });
    days.push({ spec, model, customer: null, part: null, effect: 0, bundled: false, search: null });
  }
}

/** What every day has: its weather, its scatter, and rollers as they were by then. */
function daySpec(
  random: Random,
  model: YearModel,
  at: number,
  own: number,
  job: Pick<DaySpec, 'seed' | 'id' | 'title' | 'vehicle' | 'setups' | 'rounds' | 'effects' | 'question'>,
): DaySpec {
  const yearDay = (at - Date.UTC(2024, 0, 1)) / DAY_MS / 365.25;
  const scale = own * readout(at);
  return {
    ...job,
    date: new Date(at + (7.5 + random.uniform()) * 3_600_000).toISOString(),
    bay: at < RECALIBRATED ? { ...ROLLERS, calibrationEpoch: EARLIER_EPOCH } : ROLLERS,
    engine: { ...model.engine, points: model.engine.points.map(([rpm, nm]) => [rpm, nm * scale] as const) },
    ...{ mishaps: [], gear: '4', boosted: model.boosted, sampleHz: 20 },
    heatPercentPerC: model.boosted ? 0.16 : 0.1,
    pullSd: 0.22 + 0.16 * random.uniform(),
    driftPercentPerHour: 0.12,
    morningC: 15 - 7 * Math.cos(2 * Math.PI * (yearDay - 0.05)) + random.normal(2),
    pressureHpa: 1006 + random.normal(7),
  };
}
