import { DEFAULT_QUESTION } from '@prandel/core';
import type { DaySpec } from '../day/spec.ts';
import { AMBRY } from './demoCars.ts';
import { common, naturally, returnOf, setup } from './demoParts.ts';

/** A thermal part, judged by temperature, power and fade: on a cool day the charge is cooler and the power cannot be told apart. */
export const mist: DaySpec = {
  ...common,
  seed: 1107,
  id: 'QG-0919-1',
  title: 'Does the water-mist kit keep the charge cool?',
  date: '2026-09-19T08:20:00Z',
  boosted: true,
  morningC: 15.8,
  pressureHpa: 1014.6,
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
    text: 'Does a water mist ahead of the charge cooler keep the charge cool from pull to pull, and does that show at the wheels?',
    windowRpm: [2800, 5600],
    measures: [
      { id: 'peak', channel: 'charge_c', meaningful: 3 },
      { id: 'windowMeanPower', meaningful: 1 },
      { id: 'fade', meaningful: 0.3 },
    ],
    partChangesIntakeTemperature: true,
    plan: [
      { setup: 'A', settle: 1, counted: 6 },
      { setup: 'B', settle: 1, counted: 6 },
      { setup: 'A2', settle: 1, counted: 3 },
    ],
  },
  setups: [
    setup('A', 'as arrived', ''),
    setup('B', 'water mist', 'part fitted: water-mist kit ahead of the charge cooler', {
      partCost: 340,
      labourHours: 1.2,
      currency: 'EUR',
    }),
    returnOf('A2', 'mist off'),
  ],
  rounds: [
    { setup: 'A', settle: 1, counted: 6, startMinute: 0, minutesPerPull: 2.5 },
    { setup: 'B', settle: 1, counted: 6, startMinute: 70, minutesPerPull: 2.5 },
    { setup: 'A2', settle: 1, counted: 3, startMinute: 135, minutesPerPull: 2.5 },
  ],
  engine: AMBRY,
  gear: '3',
  effects: { B: () => 0.25 },
  coolers: {
    A: { effectiveness: 0.68, warmsC: 3.2 },
    B: { effectiveness: 0.77, warmsC: 1.1 },
    A2: { effectiveness: 0.68, warmsC: 3.2 },
  },
  mishaps: [],
};

/** An answer to the pedal, read from roll-ons, with what it costs in power at the top. */
export const spring: DaySpec = {
  ...common,
  seed: 2203,
  id: 'QG-0921-1',
  title: 'Does the stiffer actuator spring answer sooner?',
  date: '2026-09-21T08:10:00Z',
  boosted: true,
  morningC: 17.4,
  pressureHpa: 1011.2,
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
    text: 'Does a stiffer actuator spring answer the pedal sooner at 2200 rpm, and what does it cost at the top?',
    windowRpm: [2800, 5600],
    measures: [
      { id: 'rollOnTime', meaningful: 5 },
      { id: 'windowMeanPower', meaningful: 1 },
    ],
    plan: ['A', 'A', 'B', 'B', 'A2', 'A2'].map((id, i) => ({ setup: id, settle: 1, counted: i < 4 ? 4 : 3 })),
  },
  setups: [
    setup('A', 'as arrived', ''),
    setup('B', 'stiffer spring', 'part fitted: stiffer actuator spring', {
      partCost: 64,
      labourHours: 0.8,
      currency: 'EUR',
    }),
    returnOf('A2', 'old spring'),
  ],
  rounds: ['A', 'B', 'A2'].flatMap((id, i) => {
    const round = { setup: id, settle: 1, counted: i < 2 ? 4 : 3, minutesPerPull: 4 };
    return [
      { ...round, startMinute: 95 * i },
      { ...round, kind: 'roll-on' as const, startMinute: 95 * i + 24 },
    ];
  }),
  engine: AMBRY,
  gear: '3',
  effects: { B: (rpm) => -0.5 - 0.0004 * (rpm - 2800) },
  rollOns: { rpm: 2200, seconds: { A: 0.86, B: 0.7, A2: 0.86 } },
  mishaps: [],
};
