import {
  changeOf,
  DEFAULT_QUESTION,
  setupWithBoth,
  USUAL_DAY,
  type Fitting,
  type Job,
  type Setup,
} from '@prandel/core';
import type { DaySpec, RoundSpec } from '../day/spec.ts';
import { AMBRY, DORSIN, PELLOW } from './demoCars.ts';
import { common, naturally, returnOf, setup } from './demoParts.ts';

/** Shootouts, crossed parts and a build; cars, parts and figures are invented. */

const EUR = { currency: 'EUR' } as const;
const DAY_MIN = 1440;

/** Rounds one after the other, so many minutes apart from start to start, on one or more days. */
const rounds = (order: readonly (readonly [setup: string, startMinute: number, counted?: number])[]): RoundSpec[] =>
  order.map(([id, startMinute, counted = 3]) => ({ setup: id, settle: 2, counted, startMinute, minutesPerPull: 5 }));

const planOf = (list: readonly RoundSpec[]) =>
  list.map(({ setup: id, settle, counted }) => ({ setup: id, settle, counted }));

/** Rises or falls from one value to another about an engine speed. */
const turning = (below: number, above: number, at: number) => (n: number) =>
  below + (above - below) / (1 + Math.exp(-(n - at) / 350));

const FIVE_ROUNDS = rounds([
  ['A', 0],
  ['B', 70],
  ['C', 140],
  ['A2', 215],
  ['D', 290, 4],
  ['A3', DAY_MIN, 3],
  ['E', DAY_MIN + 80],
  ['F', DAY_MIN + 170],
  ['A4', DAY_MIN + 250, 3],
]);

/** Five parts on one car over two days: two that cannot be told apart, one unresolved, one that pays at the top what it costs below. */
const pellowFive: DaySpec = {
  ...common,
  seed: 5127,
  id: 'QG-0916-1',
  title: 'Which of five parts frees the most power on the Strand?',
  date: '2026-09-16T07:30:00Z',
  pullSd: 0.24,
  driftPercentPerHour: 0.012,
  morningC: 18.6,
  vehicle: {
    ...naturally,
    label: 'Pellow Strand 2.5 estate',
    drivenWheels: 'rear',
    massKg: 1540,
    engineToRollerRatio: 4.6,
  },
  question: {
    ...DEFAULT_QUESTION,
    text: 'Which of five parts frees the most power at the wheels, and which of them is worth its money?',
    candidateSetups: ['B', 'C', 'D', 'E', 'F'],
    measures: [{ id: 'windowMeanPower', meaningful: 0.8 }],
    windowRpm: [3000, 5800],
    // One pull of D slipped, so one more was made than was planned.
    plan: planOf(FIVE_ROUNDS).map((s) => ({ ...s, counted: 3 })),
  },
  setups: [
    setup('A', 'as arrived', ''),
    setup('B', 'small crank pulley', 'part fitted: small crank pulley', {
      ...{ ...EUR, partCost: 190, labourHours: 0.75 },
      costs: { adapters: 18, consumables: 12, tune: null },
      outcomes: { noise: 'belt whines when cold', fit: 'hood shuts', faultLamp: 'off', difficulty: '2' },
    }),
    setup('C', 'free-running fan coupling', 'part fitted: free-running fan coupling', {
      ...{ ...EUR, partCost: 64, labourHours: 0.75 },
      outcomes: { noise: 'quieter', coldStart: 'as before', fit: 'hood shuts', faultLamp: 'off', difficulty: '1' },
    }),
    setup('D', 'coolant pump with open vanes', 'part fitted: coolant pump with open vanes', {
      ...{ ...EUR, partCost: 148, labourHours: 0.8 },
      costs: { adapters: null, consumables: 22, tune: null },
      outcomes: { coldStart: 'warms up faster', faultLamp: 'off', difficulty: '3' },
    }),
    setup('E', 'alternator cooling duct', 'part fitted: alternator cooling duct', {
      ...{ ...EUR, partCost: 38, labourHours: 0.5 },
      outcomes: { fit: 'touches the hood liner', difficulty: '1' },
    }),
    setup('F', 'long insulating spacer', 'part fitted: long insulating spacer', {
      ...{ ...EUR, partCost: 96, labourHours: 1 },
      costs: { adapters: 24, consumables: 6, tune: null },
      outcomes: { overrun: 'pops when lifted', coldStart: 'rough for a minute', difficulty: '2' },
    }),
    returnOf('A2'),
    returnOf('A3', 'anchor of the second day'),
    returnOf('A4'),
  ],
  rounds: FIVE_ROUNDS,
  engine: PELLOW,
  gear: '4',
  effects: {
    B: () => 3.1,
    C: () => 3.2,
    D: () => 1.5,
    E: () => 0.42,
    F: turning(-2.8, 4.6, 4300),
  },
  mishaps: [{ setup: 'D', pull: 4, kind: 'slip', setAside: 'tyre slipped on the roller near 3900 rpm' }],
};

const CROSSED_ROUNDS = rounds([
  ['A', 0],
  ['B', 75],
  ['C', 155],
  ['A2', 235],
  ['D', 310],
  ['A3', 390, 2],
]);
const crossedSetups: readonly Setup[] = [
  setup('A', 'as arrived', ''),
  setup('B', 'cold-air duct to the alternator', 'part fitted: cold-air duct to the alternator', {
    ...{ ...EUR, partCost: 42, labourHours: 0.5 },
  }),
  setup('C', 'clutched alternator pulley', 'part fitted: clutched alternator pulley', {
    ...{ ...EUR, partCost: 118, labourHours: 0.7 },
  }),
];

/** Two parts that do the same work: the second brings most of what the first brings. */
const dorsinCrossed: DaySpec = {
  ...common,
  seed: 6043,
  id: 'QG-0917-2',
  title: 'Do the duct and the pulley add up?',
  date: '2026-09-17T08:00:00Z',
  pullSd: 0.2,
  driftPercentPerHour: 0.02,
  morningC: 19.4,
  vehicle: {
    ...naturally,
    label: 'Dorsin Halden 2.0 saloon',
    drivenWheels: 'front',
    massKg: 1380,
    engineToRollerRatio: 4.9,
  },
  question: {
    ...DEFAULT_QUESTION,
    text: 'Does a clutched alternator pulley still bring anything once the alternator runs cool, or do both do the same work?',
    candidateSetups: ['B', 'C', 'D'],
    windowRpm: [3000, 6000],
    plan: planOf(CROSSED_ROUNDS),
  },
  setups: [
    ...crossedSetups,
    {
      ...setupWithBoth(crossedSetups, 'A', ['B', 'C'], 'D'),
      ...EUR,
      state: crossedSetups[0]!.state,
      partCost: 160,
      labourHours: 1.2,
    },
    returnOf('A2'),
    returnOf('A3'),
  ],
  rounds: CROSSED_ROUNDS,
  engine: DORSIN,
  gear: '4',
  effects: { B: () => 2.2, C: () => 3.1, D: () => 3.1 },
  mishaps: [],
};

const LEDGER_ROUNDS = rounds([
  ['A', 0],
  ['B', 75],
  ['C', 150],
  ['A2', 235, 2],
  ['A3', DAY_MIN + 30],
  ['D', DAY_MIN + 110],
  ['E', DAY_MIN + 190],
  ['A4', DAY_MIN + 275, 2],
]);

/** A build in four steps over two days: a part, a bundle, a cure and a retune. */
const ambryBuild: DaySpec = {
  ...common,
  seed: 7311,
  id: 'QG-0918-4',
  title: 'What did each step of the build bring?',
  date: '2026-09-18T07:40:00Z',
  pullSd: 0.22,
  driftPercentPerHour: 0.015,
  morningC: 17.9,
  vehicle: {
    ...naturally,
    label: 'Ambry Lune 1.4 hatchback',
    drivenWheels: 'front',
    massKg: 1020,
    engineToRollerRatio: 5.1,
  },
  question: {
    ...DEFAULT_QUESTION,
    text: 'What did each of the four steps bring, and what do they bring together?',
    candidateSetups: ['B', 'C', 'D', 'E'],
    windowRpm: [2500, 5600],
    plan: planOf(LEDGER_ROUNDS),
  },
  setups: [
    setup('A', 'as arrived', ''),
    setup('B', 'electric coolant pump', 'part fitted: electric coolant pump; part removed: belt-driven coolant pump', {
      ...{ ...EUR, partCost: 260, labourHours: 1.5 },
      costs: { adapters: 35, consumables: 18, tune: null },
    }),
    setup('C', 'thin axle oil and light pulleys', 'part fitted: light belt pulleys; fluid: thin axle oil', {
      ...{ ...EUR, parentId: 'B', partCost: 122, labourHours: 1 },
      costs: { adapters: null, consumables: 44, tune: null },
    }),
    setup('D', 'leaking charge hose joint sealed', '', {
      ...{ ...EUR, parentId: 'C', partCost: 6, labourHours: 0.4, cure: true },
      changes: [changeOf('other', 'leaking hose joint behind the air meter sealed')],
    }),
    setup('E', 'retuned on what is fitted', 'tune: revision 3', {
      ...{ ...EUR, parentId: 'D', partCost: 0, labourHours: 1.25, closedCourseOnly: true },
      costs: { adapters: null, consumables: null, tune: 180 },
      state: { ...setup('A', '', '').state, tuneDigest: 'b70d14' },
    }),
    returnOf('A2'),
    returnOf('A3', 'anchor of the second day'),
    returnOf('A4'),
  ],
  rounds: LEDGER_ROUNDS,
  engine: AMBRY,
  gear: '4',
  effects: { B: () => 1.6, C: () => 2.4, D: () => 5.2, E: turning(6.6, 8.4, 3900) },
  mishaps: [],
};

export const SHOOTOUT_DAYS: readonly DaySpec[] = [pellowFive, dorsinCrossed, ambryBuild];

/** A clock that ran for so many minutes before a round. */
function clocked(job: Job, setupId: string, endsBefore: number, minutes: number, disturbed: string): Fitting {
  const round = pellowFive.rounds.find((r) => r.setup === setupId)!;
  const at = (minute: number) => new Date(Date.parse(job.openedAt!) + minute * 60_000).toISOString();
  const end = round.startMinute - endsBefore;
  return {
    ...{ setup: setupId, who: 'Tom K.', startedAt: at(end - minutes), stoppedAt: at(end) },
    ...{ changed: '', disturbed, parts: '', cost: null, notes: '' },
  };
}

/** The shootout with its gears, the use of the car and what its fittings took. */
export function withPapers(job: Job): Job {
  if (job.id !== pellowFive.id) return job;
  return {
    ...job,
    gearing: {
      ratios: [3.2, 2.1, 1.55, 1.24, 1.08],
      finalDrive: 3.46,
      circumferenceM: 1.96,
      limiterRpm: 6150,
      shiftSeconds: 0.4,
    },
    road: { massKg: 1620, overallRatio: 4.29, tyreRadiusM: 0.312, dragAreaM2: 0.72, rolling: 0.012 },
    day: {
      ...USUAL_DAY,
      customer: 'Oda L.',
      claim: 'Every one of the five is sold as “frees power”.',
      fittings: [
        clocked(job, 'B', 6, 41, 'belt'),
        clocked(job, 'C', 6, 36, 'belt, shroud'),
        clocked(job, 'D', 6, 44, 'belt, coolant'),
        clocked(job, 'E', 10, 24, ''),
        clocked(job, 'F', 8, 52, 'throttle cable'),
      ],
      plan: {
        ...{ ...USUAL_DAY.plan, shape: 'own', fittingMinutes: 45, startAt: job.openedAt },
        ...{ openFromMin: 7 * 60, openUntilMin: 14 * 60 + 30 },
      },
      readAtRpm: [3000, 4000, 5000],
    },
  };
}
