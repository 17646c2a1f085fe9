import {
  declared,
  DEFAULT_QUESTION,
  newJob,
  newSetup,
  UNKNOWN_VEHICLE,
  USUAL_DAY,
  type Bay,
  type Job,
  type ModelCard,
} from '@prandel/core';
import { DEMO_STATE, ROLLERS, VIREO } from '../demo/demoCars.ts';
import type { DaySpec } from '../day/spec.ts';

/** How the roadster runs on rollers. */
export const VIREO_CARD: ModelCard = {
  label: 'Tarn Vireo 1.8',
  gear: '4',
  sensors: { intake: true, coolant: true, oil: true },
  safeRpm: [1800, 7100],
  settlePulls: 2,
  baselinesSeenW: [114_300, 116_200, 113_900, 117_100, 115_600],
  notes:
    'Traction control off by holding its button for five seconds. Fourth gear; the rear strap points are under the boot floor.',
};

/** Heavier rollers than those of the finished demo days: a sweep takes some nine seconds. */
export const LIVE_BAY: Bay = { ...ROLLERS, label: 'Bay 2', rollerInertiaKgM2: 58, calibrationEpoch: '2026-10-01' };

/** The job that the demo's bay is ready for: an electric steering pump in place of the belt-driven one. */
export function liveJob(): Job {
  const setups = [
    { ...newSetup('A', 'belt-driven pump'), state: DEMO_STATE },
    {
      ...newSetup('B', 'electric pump', 'A'),
      ...declared('part fitted: electric steering pump; part removed: belt-driven pump and its belt'),
      state: DEMO_STATE,
    },
    { ...newSetup('A2', 'return check', 'A'), returnsTo: 'A', state: DEMO_STATE },
  ];
  const title = 'Does the electric steering pump free power at the wheels?';
  return {
    ...newJob('QG-1123-1', title),
    timeZone: 'Europe/Lisbon',
    vehicle: {
      ...UNKNOWN_VEHICLE,
      label: 'Tarn Vireo 1.8 roadster',
      drivenWheels: 'rear',
      aspiration: 'natural',
      transmission: 'manual',
      massKg: 1060,
      engineToRollerRatio: 5.2,
    },
    bay: LIVE_BAY,
    question: {
      ...DEFAULT_QUESTION,
      text: title,
      windowRpm: [3000, 6800],
      plan: [
        { setup: 'A', settle: 2, counted: 3 },
        { setup: 'B', settle: 2, counted: 3 },
        { setup: 'A2', settle: 2, counted: 2 },
      ],
    },
    setups,
    day: {
      ...USUAL_DAY,
      customer: 'Bram T.',
      claim: 'The seller promises four kilowatts.',
      modelCard: VIREO_CARD,
      plan: { ...USUAL_DAY.plan, fittingMinutes: 45 },
      abortLimits: [
        { channel: 'coolant_c', warn: 108, stop: 115, side: 'above' },
        { channel: 'oil_bar', warn: null, stop: 1.2, side: 'below' },
      ],
    },
  };
}

/** What is true of the live car; the instruments only ever show its consequences. */
export function liveSpec(seed = 1123): DaySpec {
  const { vehicle, question, setups, id, title } = liveJob();
  return {
    seed,
    id,
    title,
    date: '2026-11-23T08:30:00Z',
    vehicle,
    bay: LIVE_BAY,
    question,
    setups,
    rounds: [],
    engine: VIREO,
    effects: { B: liveTruthPercent },
    mishaps: [],
    gear: '4',
    heatPercentPerC: 0.11,
    pullSd: 0.28,
    driftPercentPerHour: 0.12,
    sampleHz: 100,
    morningC: 21.4,
    pressureHpa: 1003.9,
  };
}

/** What the electric pump really does, per cent of torque: the belt took more the faster it ran. */
export function liveTruthPercent(rpm: number): number {
  return 2.4 + (0.8 * (rpm - 3000)) / 3800;
}
