import { NEW_JOB } from './shop.ts';

/** What bodies name: a job with a staged file, and where chance comes from. */
export interface Own {
  readonly job: string;
  readonly file: string;
  readonly columns: readonly { role: string; unit: string | null }[];
  readonly version: number;
  readonly random: () => number;
  readonly pick: <T>(list: readonly T[]) => T;
}

const DAY = {
  customer: 'M. Q.',
  claim: 'ten more',
  intake: { tyres: 'new' },
  modelCard: {
    label: 'card',
    gear: '4',
    notes: '',
    safeRpm: [2000, 6000],
    settlePulls: 1,
    sensors: { intake: true, coolant: true, oil: false },
  },
  plan: {
    shape: 'return',
    startAt: '2026-11-26T08:00:00Z',
    minutesPerPull: 5,
    fittingMinutes: 50,
    openFromMin: 480,
    openUntilMin: 1080,
    forecastC: [10, 20],
    order: 'fixed',
  },
  abortLimits: [{ channel: 'coolant_c', warn: 105, stop: 110, side: 'above' }],
  fittings: [{ startedAt: '2026-11-26T08:00:00Z', changed: '', disturbed: '', parts: '', cost: null, notes: '' }],
  cannotBeUndone: null,
};

const ANSWERS = { state: 'as-stated', standard: null, factor: null, averagingRpm: null, rpmPerKmH: null };
const CONDITIONS = {
  ...{ airC: 20, pressureHpa: 1000, relativeHumidity: 0.5 },
  ...{ intakeStartC: 30, coolantStartC: null, oilStartC: null },
};

export const bayBody = (random: () => number) => ({
  label: `Bay ${Math.floor(random() * 1e6)}`,
  rollers: { kind: 'inertia', rollerInertiaKgM2: 20, elevationM: 100, calibrationEpoch: '2026-10-01' },
  instruments: {
    rollers: { host: '127.0.0.1', port: 9 },
    aux: null,
    registers: {
      unit: 1,
      base: 0,
      wordOrder: 'big',
      channels: [{ name: 'charge_c', register: 0, kind: 'int16', scale: 0.1 }],
    },
  },
});

/** Bodies that are taken as they are, by operation. */
export const takenBodies = (own: Own): Readonly<Record<string, () => object>> => ({
  'post /api/jobs': () => ({
    ...NEW_JOB,
    day: DAY,
    method: { correction: 'none', averagingWidthRpm: 200, gates: { intakeC: 3 }, schools: { hood: 'open' } },
    timeZone: 'Europe/Lisbon',
  }),
  'patch /api/jobs/{id}': () => ({
    version: own.version,
    vehicle: { label: 'Car', massKg: 1000, engineToRollerRatio: 5.2 },
    question: { ...NEW_JOB.question, plan: [{ setup: 'A', settle: 1, counted: 2 }] },
    method: { correction: 'sae-j1349', averagingWidthRpm: 100, gates: { intakeC: 3 }, schools: {} },
    setups: NEW_JOB.setups,
    day: DAY,
    amendment: 'because',
    roadPasses: [{ setupId: 'A', at: null, direction: 'out', fromKmH: 80, toKmH: 120, seconds: 6.4 }],
    road: { massKg: 1400, overallRatio: 6.1, tyreRadiusM: 0.31, dragAreaM2: null, rolling: 0.012 },
  }),
  'post /api/jobs/{id}/gauges': () => ({
    readings: [{ pullId: 'A-1', channel: 'oil_c', moment: 'peak', value: own.pick([104, null]) }],
  }),
  'post /api/jobs/{id}/loggers/preview': () => ({ fileId: own.file, columns: own.columns }),
  'post /api/jobs/{id}/loggers': () => ({
    ...{ fileId: own.file, columns: own.columns },
    byHand: { pull: 'A-1', atS: 0 },
  }),
  'patch /api/jobs/{id}/pulls/{pull}': () => ({ version: own.version, status: 'set-aside', reason: 'slip' }),
  'post /api/jobs/{id}/notes': () => ({ about: own.pick([null, 1]), words: 'some words' }),
  'post /api/jobs/{id}/weather': () => ({ airC: 20, pressureHpa: 1000, relativeHumidity: 0.5 }),
  'post /api/jobs/{id}/pulls/{pull}/readings': () => ({ intakeStartC: 30, coolantStartC: 90, oilStartC: null }),
  'post /api/jobs/{id}/searches/looks': () => ({ suspect: 'straps', result: 'fine', minutes: null, pull: null }),
  'post /api/jobs/{id}/import-preview': () => ({ fileIds: [own.file], columns: own.columns }),
  'post /api/jobs/{id}/imports': () => ({
    fileIds: [own.file],
    setupId: 'A',
    settle: 1,
    columns: own.columns,
    numberState: { kind: 'corrected', standard: 'sae-j1349', factor: 1.01 },
    conditions: { gear: '4', airC: 20, pressureHpa: 1000, relativeHumidity: 0.4, averagingRpm: 100 },
  }),
  'post /api/jobs/{id}/day-layout': () => ({
    files: [{ id: own.file, shape: 0, changedAt: '2026-09-14T10:00:00Z' }],
    shapes: [{ columns: own.columns, answers: ANSWERS }],
    timeZone: 'Europe/Lisbon',
  }),
  'post /api/jobs/{id}/day-imports': () => ({
    files: [{ id: own.file, shape: 0 }],
    shapes: [{ columns: own.columns, answers: ANSWERS, byItself: false }],
    pulls: [
      {
        ...{ fileId: own.file, index: 0, round: 1, setupId: 'A', status: 'counted', reason: null },
        ...{ startedAt: '2026-09-14T10:00:00Z', timeFrom: 'typed', gear: null, averagingRpm: null },
        conditions: CONDITIONS,
        numberState: { kind: 'uncorrected' },
      },
    ],
  }),
  'post /api/jobs/{id}/shapes': () => ({ fileId: own.file, columns: own.columns, answers: ANSWERS, byItself: true }),
  'post /api/bays/{id}/watching': () => ({ folder: 'C:/pulls' }),
  'post /api/standards': () => ({
    ...{ name: `Sheet ${Math.floor(own.random() * 1e6)}`, kind: 'reference', referenceC: 20 },
    ...{ referenceHpa: 1013.25, pressure: 'total', mechanicalEfficiency: 0.85 },
  }),
  'post /api/bays': () => bayBody(own.random),
  'patch /api/bays/{id}': () => bayBody(own.random),
  'post /api/bays/{id}/actions': () =>
    own.pick<object>([
      { action: 'open-job', job: own.job },
      { action: 'start-round', setup: 'A' },
      { action: 'set-aside', pull: 'A-1', reason: 'because' },
      { action: 'note', reason: 'because' },
      { action: 'start-fitting', setup: 'B' },
      { action: 'stop-fitting', fitting: { changed: 'x', disturbed: 'y', parts: 'z', cost: 4, notes: '' } },
      { action: 'leave', driverAidsRestored: true },
      { action: 'set-point', state: 'fan' },
      { action: 'close-round', reason: 'heat' },
      { action: 'extra-settle' },
    ]),
  'post /api/records': () => ({ kind: 'part', label: `Part ${Math.floor(own.random() * 1e6)}`, fields: { price: 3 } }),
  'patch /api/records/{kind}/{id}': () => ({ version: 1, label: 'Part', fields: { price: 4 } }),
  'patch /api/session/units': () => ({ units: { power: 'hp', torque: 'N·m' } }),
});
