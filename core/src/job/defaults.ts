import type { Bay, Job, Method, Pull, Question, Setup, Vehicle } from './job.ts';

/** House defaults where a package or a person says nothing. Common practice, no source. */
export const DEFAULT_METHOD: Method = { correction: 'sae-j1349', averagingWidthRpm: 200, settlePulls: 2, gates: {} };

export const DEFAULT_QUESTION: Question = {
  text: '',
  baselineSetup: 'A',
  candidateSetups: ['B'],
  measures: [{ id: 'windowMeanPower', meaningful: 1 }],
  windowRpm: null,
  confidence: 0.95,
  partChangesIntakeTemperature: false,
  plan: [],
  extension: null,
};

export const UNKNOWN_VEHICLE: Vehicle = {
  label: '',
  drivenWheels: null,
  aspiration: null,
  transmission: null,
  massKg: null,
  engineToRollerRatio: null,
};

export const UNKNOWN_BAY: Bay = {
  label: '',
  kind: null,
  rollerInertiaKgM2: null,
  readoutScale: 1,
  calibrationEpoch: null,
  elevationM: null,
  lossTorqueNm: null,
  verdictConstants: {},
  prior: null,
};

/**
 * A setup with nothing changed and nothing recorded of its state.
 * @example newSetup('B', 'electric pump', 'A').parentId // 'A'
 */
export function newSetup(id: string, label: string, parentId: string | null = null): Setup {
  return {
    id,
    label,
    parentId,
    returnsTo: null,
    changes: [],
    declares: [],
    state: {},
    remounted: false,
    closedCourseOnly: false,
    partCost: null,
    labourHours: null,
    currency: null,
    supplier: null,
  };
}

/**
 * A counted pull of round 1 without samples or readings.
 * @example newPull('A-1', 'A', 1).status // 'counted'
 */
export function newPull(id: string, setupId: string, position: number): Pull {
  return {
    id,
    setupId,
    round: 1,
    position,
    startedAt: null,
    status: 'counted',
    reason: null,
    gear: null,
    pressureHpa: null,
    airC: null,
    relativeHumidity: null,
    intakeStartC: null,
    coolantStartC: null,
    oilStartC: null,
    numberState: { kind: 'uncorrected' },
    averagingRpm: null,
    channels: [],
  };
}

/**
 * A job with a baseline A and one candidate B, nothing measured, and the usual method.
 * @example newJob('QG-1', 'Does it help?').question.baselineSetup // 'A'
 */
export function newJob(id: string, title: string): Job {
  return {
    id,
    title,
    openedAt: null,
    timeZone: null,
    vehicle: UNKNOWN_VEHICLE,
    bay: UNKNOWN_BAY,
    question: DEFAULT_QUESTION,
    method: DEFAULT_METHOD,
    setups: [newSetup('A', 'As arrived'), newSetup('B', 'With the part', 'A')],
    pulls: [],
    weather: [],
  };
}
