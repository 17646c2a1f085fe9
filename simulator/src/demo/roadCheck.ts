import { DEFAULT_QUESTION, type Job } from '@prandel/core';
import type { DaySpec } from '../day/spec.ts';
import { driveRoadDay, type RoadDaySpec } from '../road/roadDay.ts';
import { DORSIN } from './demoCars.ts';
import { common, naturally, returnOf, setup } from './demoParts.ts';

/** A part on the way to the throttle: the vacuum that it saves, what that gives at the wheels, and what is left of it on the road. */
export const duct: DaySpec = {
  ...common,
  seed: 3312,
  id: 'QG-0922-1',
  title: 'Does the straighter inlet duct pull harder on the road?',
  date: '2026-09-22T08:00:00Z',
  pullSd: 0.24,
  driftPercentPerHour: 0.06,
  morningC: 18.2,
  pressureHpa: 1008.6,
  vehicle: {
    ...naturally,
    label: 'Dorsin Calder 2.0 coupe',
    drivenWheels: 'rear',
    massKg: 1390,
    engineToRollerRatio: 4.9,
  },
  question: {
    ...DEFAULT_QUESTION,
    text: 'Does a straighter inlet duct save vacuum, does that show at the wheels, and does the car pull harder from 80 to 120 km/h?',
    windowRpm: [3000, 6200],
    measures: [
      { id: 'windowMeanPower', meaningful: 1 },
      { id: 'mean', channel: 'inlet_vacuum_kpa', meaningful: 1 },
      { id: 'roadTime', fromKmH: 80, toKmH: 120, meaningful: 1 },
    ],
    plan: [
      { setup: 'A', settle: 2, counted: 4 },
      { setup: 'B', settle: 2, counted: 4 },
      { setup: 'A2', settle: 2, counted: 3 },
    ],
  },
  setups: [
    setup('A', 'as arrived', ''),
    setup('B', 'straighter duct', 'part fitted: straighter inlet duct', {
      partCost: 145,
      labourHours: 0.6,
      currency: 'EUR',
    }),
    returnOf('A2', 'old duct'),
  ],
  rounds: [
    { setup: 'A', settle: 2, counted: 4, startMinute: 0, minutesPerPull: 5 },
    { setup: 'B', settle: 2, counted: 4, startMinute: 75, minutesPerPull: 5 },
    { setup: 'A2', settle: 2, counted: 3, startMinute: 150, minutesPerPull: 5 },
  ],
  engine: DORSIN,
  gear: '4',
  effects: { B: (rpm) => 1.2 + 1.9 / (1 + Math.exp(-(rpm - 4200) / 500)) },
  intakes: { A: 7.4, B: 4.6, A2: 7.4 },
  mishaps: [],
};

/** The same car on a closed road in the afternoon, with a wind from the east. */
export const DUCT_ON_THE_ROAD: RoadDaySpec = {
  seed: 815,
  startAt: '2026-09-22T14:30:00Z',
  engine: DORSIN,
  effects: duct.effects,
  car: { massKg: 1475, overallRatio: 5.1, tyreRadiusM: 0.305, dragAreaM2: 0.64, rolling: 0.012 },
  setups: ['A', 'B'],
  each: 4,
  fromKmH: 80,
  toKmH: 120,
  windMs: 2.4,
  passSd: 0.5,
  airDensity: 1.19,
  hz: 10,
};

/** The job with its passes, as they were found in the log; drag is fitted to the baseline's. */
export function withRoadCheck(job: Job): Job {
  const { passes } = driveRoadDay(DUCT_ON_THE_ROAD);
  return { ...job, roadPasses: passes, road: { ...DUCT_ON_THE_ROAD.car, dragAreaM2: null } };
}
