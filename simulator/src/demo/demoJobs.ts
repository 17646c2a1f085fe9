import { DEFAULT_QUESTION, type Job } from '@prandel/core';
import { simulateDay } from '../day/simulateDay.ts';
import type { DaySpec } from '../day/spec.ts';
import { withJobDay } from './demoDays.ts';
import { common, naturally, returnOf, setup } from './demoParts.ts';
import { mist, spring } from './measureDays.ts';
import { duct, withRoadCheck } from './roadCheck.ts';
import { SHOOTOUT_DAYS, withPapers } from './shootouts.ts';
import { AMBRY, DEMO_STATE, DORSIN, PELLOW, VIREO } from './demoCars.ts';

/** Quillmoor Garage, its cars, parts and people are invented. */
export const DEMO_SHOP = {
  name: 'Quillmoor Garage',
  person: 'Ines R.',
  email: 'ines@quillmoor.example',
  password: 'two settle pulls',
  /** Others who work there; they sign in with the same password. */
  others: [
    { name: 'Tom K.', email: 'tom@quillmoor.example', role: 'technician' },
    { name: 'Vera L.', email: 'vera@quillmoor.example', role: 'viewer' },
  ],
} as const;

/** The main job: an electric fan, then a gasket with it, and the return check. */
const vireo: DaySpec = {
  ...common,
  seed: 914,
  id: 'QG-0914-2',
  title: 'Does the electric cooling fan add power at the wheels?',
  date: '2026-09-14T08:20:00Z',
  vehicle: {
    ...naturally,
    label: 'Tarn Vireo 1.8 roadster',
    drivenWheels: 'rear',
    massKg: 1080,
    engineToRollerRatio: 5.2,
  },
  question: {
    ...DEFAULT_QUESTION,
    text: 'Does an electric cooling fan in place of the belt-driven one add power at the wheels, and does an insulated manifold gasket add more?',
    baselineSetup: 'A',
    candidateSetups: ['B', 'C'],
    windowRpm: [5000, 6900],
    plan: [
      { setup: 'A', settle: 2, counted: 5 },
      { setup: 'B', settle: 2, counted: 5 },
      { setup: 'C', settle: 2, counted: 5 },
      { setup: 'A2', settle: 2, counted: 3 },
    ],
  },
  setups: [
    setup('A', 'as arrived', ''),
    setup('B', 'electric fan', 'part fitted: electric cooling fan; part removed: belt-driven cooling fan', {
      partCost: 210,
      labourHours: 1.2,
      currency: 'EUR',
    }),
    setup('C', 'fan + gasket', 'part fitted: insulated manifold gasket', {
      parentId: 'B',
      partCost: 65,
      labourHours: 1,
      currency: 'EUR',
    }),
    returnOf('A2'),
  ],
  rounds: [
    { setup: 'A', settle: 2, counted: 6, startMinute: 0, minutesPerPull: 5 },
    { setup: 'B', settle: 2, counted: 6, startMinute: 105, minutesPerPull: 5 },
    { setup: 'C', settle: 2, counted: 5, startMinute: 205, minutesPerPull: 5 },
    { setup: 'A2', settle: 2, counted: 3, startMinute: 305, minutesPerPull: 5 },
  ],
  engine: VIREO,
  gear: '4',
  effects: {
    B: (n) => -0.5 + 3.1 / (1 + Math.exp(-(n - 4300) / 520)),
    C: (n) => 0.1 + 3.6 / (1 + Math.exp(-(n - 4000) / 600)),
  },
  mishaps: [
    { setup: 'A', pull: 5, kind: 'hot-start', setAside: 'intake air started above the window' },
    { setup: 'B', pull: 6, kind: 'slip', setAside: 'tyre slipped on the roller near 5200 rpm' },
    { setup: 'C', pull: 4, kind: 'shift-spike' },
  ],
};

/** Nothing to find, found honestly: enough pulls and return checks, while best against best claims a gain. */
const pellow: DaySpec = {
  ...common,
  seed: 31,
  id: 'QG-0911-1',
  title: 'Does the thinner gear oil free any power?',
  date: '2026-09-11T07:50:00Z',
  pullSd: 0.36,
  driftPercentPerHour: 0.05,
  morningC: 19.8,
  vehicle: {
    ...naturally,
    label: 'Pellow Strand 2.5 estate',
    drivenWheels: 'rear',
    massKg: 1540,
    engineToRollerRatio: 4.6,
  },
  question: {
    ...DEFAULT_QUESTION,
    text: 'Does a thinner gear oil free any power at the wheels?',
    windowRpm: [3000, 5800],
    plan: [
      { setup: 'A', settle: 2, counted: 3 },
      { setup: 'B', settle: 2, counted: 5 },
    ],
  },
  setups: [
    setup('A', 'gear oil as arrived', ''),
    setup('B', 'thinner gear oil', 'part fitted: thinner gear oil', {
      partCost: 48,
      labourHours: 0.7,
      currency: 'EUR',
    }),
    returnOf('A2', 'old grade back in'),
    { ...setup('B2', 'thinner oil again', 'part fitted: thinner gear oil'), returnsTo: 'B' },
    returnOf('A3', 'old grade, last check'),
  ],
  rounds: ['A', 'B', 'A2', 'B2', 'A3'].map((id, i) => ({
    setup: id,
    settle: 2,
    counted: id.startsWith('B') ? 5 : 3,
    startMinute: i * 85,
    minutesPerPull: 5,
  })),
  engine: PELLOW,
  gear: '4',
  effects: { B: () => 0.05, B2: () => 0.05 },
  mishaps: [],
};

/** Cannot be compared: the fan was left off for one setup, and the temperatures give it away. */
const ambry: DaySpec = {
  ...common,
  seed: 77,
  id: 'QG-0912-3',
  title: 'Does the radiator shroud help?',
  date: '2026-09-12T12:10:00Z',
  boosted: true,
  morningC: 24.6,
  vehicle: {
    ...naturally,
    aspiration: 'turbo',
    label: 'Ambry Kite 1.2 turbo',
    drivenWheels: 'front',
    massKg: 1120,
    engineToRollerRatio: 5.6,
  },
  question: {
    ...DEFAULT_QUESTION,
    text: 'Does a closed radiator shroud add power at the wheels?',
    windowRpm: [2800, 5600],
    plan: [
      { setup: 'A', settle: 2, counted: 3 },
      { setup: 'B', settle: 2, counted: 3 },
    ],
  },
  setups: [
    setup('A', 'as arrived', ''),
    setup('B', 'radiator shroud', 'part fitted: radiator shroud', {
      state: { ...DEMO_STATE, fan: 'off' },
      partCost: 95,
      labourHours: 0.5,
      currency: 'EUR',
    }),
  ],
  rounds: [
    { setup: 'A', settle: 2, counted: 3, startMinute: 0, minutesPerPull: 5 },
    { setup: 'B', settle: 2, counted: 3, startMinute: 75, minutesPerPull: 5 },
  ],
  engine: AMBRY,
  gear: '3',
  effects: { B: () => 0.4 },
  mishaps: [],
  fanOff: ['B'],
};

/** Too little to say: one round each, no return check; the app says what would settle it. */
const dorsin: DaySpec = {
  ...common,
  seed: 52,
  id: 'QG-0915-1',
  title: 'Is the dearer fuel worth it?',
  date: '2026-09-15T09:00:00Z',
  morningC: 18.9,
  pressureHpa: 1009.2,
  vehicle: {
    ...naturally,
    label: 'Dorsin Calder 2.0 coupe',
    drivenWheels: 'rear',
    massKg: 1390,
    engineToRollerRatio: 4.9,
  },
  question: {
    ...DEFAULT_QUESTION,
    text: 'Does fuel of a higher grade add power with this tune?',
    windowRpm: [3000, 6200],
    plan: [
      { setup: 'A', settle: 2, counted: 3 },
      { setup: 'B', settle: 2, counted: 3 },
    ],
  },
  setups: [
    setup('A', '95 octane', ''),
    setup('B', '98 octane', 'fuel: 98 octane in place of 95, tank drained', {
      state: { ...DEMO_STATE, fuel: '98 octane' },
    }),
  ],
  rounds: [
    { setup: 'A', settle: 2, counted: 3, startMinute: 0, minutesPerPull: 5 },
    { setup: 'B', settle: 2, counted: 3, startMinute: 80, minutesPerPull: 5 },
  ],
  engine: DORSIN,
  gear: '4',
  effects: { B: () => 0.9 },
  mishaps: [],
};

/** A verified loss: the low-temperature thermostat keeps the oil cold. */
const thermostat: DaySpec = {
  ...common,
  seed: 361,
  id: 'QG-0910-2',
  title: 'Does the low-temperature thermostat help on the road?',
  date: '2026-09-10T08:30:00Z',
  morningC: 16.2,
  pressureHpa: 1012.4,
  vehicle: {
    ...naturally,
    label: 'Tarn Vireo 1.8 roadster',
    drivenWheels: 'rear',
    massKg: 1080,
    engineToRollerRatio: 5.2,
  },
  question: {
    ...DEFAULT_QUESTION,
    text: 'Does a thermostat that opens early add power in ordinary driving?',
    windowRpm: [2500, 5500],
    plan: [
      { setup: 'A', settle: 2, counted: 3 },
      { setup: 'B', settle: 2, counted: 3 },
      { setup: 'A2', settle: 1, counted: 2 },
    ],
  },
  setups: [
    setup('A', 'as arrived', ''),
    setup('B', 'early thermostat', 'part fitted: low-temperature thermostat', {
      partCost: 32,
      labourHours: 0.6,
      currency: 'EUR',
    }),
    returnOf('A2'),
  ],
  rounds: [
    { setup: 'A', settle: 2, counted: 3, startMinute: 0, minutesPerPull: 5 },
    { setup: 'B', settle: 2, counted: 3, startMinute: 80, minutesPerPull: 5 },
    { setup: 'A2', settle: 2, counted: 2, startMinute: 160, minutesPerPull: 5 },
  ],
  engine: VIREO,
  gear: '4',
  effects: { B: (n) => -2.4 + 0.0001 * (n - 2500) },
  mishaps: [],
};

export const DEMO_DAYS: readonly DaySpec[] = [
  ...[vireo, pellow, ambry, dorsin, thermostat, mist, spring, duct],
  ...SHOOTOUT_DAYS,
];

/** The demo shop's jobs, computed from their seeds. */
export function demoJobs(): Job[] {
  return DEMO_DAYS.map(simulateDay).map((job) =>
    withPapers(job.id === vireo.id ? withJobDay(job) : job.id === duct.id ? withRoadCheck(job) : job),
  );
}
