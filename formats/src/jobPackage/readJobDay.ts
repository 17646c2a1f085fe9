import {
  faultSearchesOf,
  CORRECTION_IDS,
  DEFAULT_METHOD,
  DEFAULT_QUESTION,
  isBayPrior,
  isCorrectionId,
  isMeasureId,
  MEASURE_IDS,
  measureFacts,
  measuresProblem,
  UNKNOWN_BAY,
  UNKNOWN_VEHICLE,
  USUAL_DAY,
  type BayPrior,
  type DeclaredMeasure,
  type JobDay,
  type Job,
  type Pull,
  type Setup,
  type WeatherReading,
} from '@prandel/core';
import { UnreadableError } from '../problem.ts';
import { part, type Json } from './members.ts';

/** What older packages call the start temperatures. */
const OLD_NAMES: Readonly<Record<string, Pick<DeclaredMeasure, 'id' | 'channel'>>> = {
  intakeStartTemperature: { id: 'start', channel: 'intake_c' },
  coolantStartTemperature: { id: 'start', channel: 'coolant_c' },
  oilStartTemperature: { id: 'start', channel: 'oil_c' },
};

/** The measures of a question: its list, or the one measure with the gain that would matter. @throws UnreadableError naming the member */
function measuresOf(question: Json): DeclaredMeasure[] {
  const listed = question.measures;
  const list: unknown[] =
    listed === undefined || listed === null
      ? [{ id: question.measure ?? 'windowMeanPower', meaningful: question.meaningfulGainPercent }]
      : Array.isArray(listed)
        ? listed
        : [listed];
  const member = listed === undefined || listed === null ? 'question.measure' : 'question.measures';
  const measures = list.map((entry): DeclaredMeasure => {
    const own = part(entry);
    const { id, ...old } = OLD_NAMES[String(own.id)] ?? { id: own.id };
    if (typeof id !== 'string' || !isMeasureId(id))
      throw new UnreadableError(
        `datapackage.json: ${member} "${String(own.id)}" is none of ${MEASURE_IDS.join(', ')}.`,
      );
    const asked = {
      ...{ id, ...old },
      ...(typeof own.channel === 'string' ? { channel: own.channel } : {}),
      ...(typeof own.rpm === 'number' ? { rpm: own.rpm } : {}),
      ...(typeof own.target === 'number' ? { target: own.target } : {}),
      ...(typeof own.fromKmH === 'number' ? { fromKmH: own.fromKmH } : {}),
      ...(typeof own.toKmH === 'number' ? { toKmH: own.toKmH } : {}),
      ...(own.windowRpm === undefined ? {} : { windowRpm: windowOf(own.windowRpm) ?? undefined }),
    } as Omit<DeclaredMeasure, 'meaningful'>;
    return {
      ...asked,
      meaningful: typeof own.meaningful === 'number' ? own.meaningful : measureFacts(asked).meaningful,
    };
  });
  const problem = measuresProblem(measures);
  if (problem) throw new UnreadableError(`datapackage.json: ${member}: ${problem}.`);
  return measures;
}

/** Builds the job from the `prandel` object and the tables. @throws UnreadableError naming the member */
export function assemble(
  prandel: Json,
  descriptor: Json,
  setups: Setup[],
  pulls: Pull[],
  weather: WeatherReading[],
): Job {
  const job = part(prandel.job);
  const vehicle = part(prandel.vehicle);
  const bay = part(prandel.bay);
  const question = part(prandel.question);
  const method = part(prandel.method);
  const text = (from: Json, key: string) => (typeof from[key] === 'string' && from[key] !== '' ? from[key] : null);
  const number = (from: Json, key: string) =>
    typeof from[key] === 'number' && Number.isFinite(from[key]) ? from[key] : null;
  const title = text(job, 'title') ?? text(descriptor, 'title') ?? text(descriptor, 'name') ?? 'Job';
  const baselineSetup = text(question, 'baselineSetup');
  const candidateSetups = Array.isArray(question.candidateSetups)
    ? question.candidateSetups.filter((s) => typeof s === 'string')
    : [];
  // A commissioning day compares nothing, and says so.
  const nothing = Array.isArray(question.candidateSetups) && question.candidateSetups.length === 0;
  if (!baselineSetup || (candidateSetups.length === 0 && !nothing))
    throw new UnreadableError('datapackage.json: prandel.question needs baselineSetup and candidateSetups.');
  const choice = <T extends string>(value: string | null, allowed: readonly T[], name: string): T | null => {
    if (value === null) return null;
    if (!(allowed as readonly string[]).includes(value))
      throw new UnreadableError(`datapackage.json: ${name} "${value}" is none of ${allowed.join(', ')}.`);
    return value as T;
  };
  const correction = text(method, 'correction') ?? DEFAULT_METHOD.correction;
  if (!isCorrectionId(correction))
    throw new UnreadableError(
      `datapackage.json: method.correction "${correction}" is none of ${CORRECTION_IDS.join(', ')}.`,
    );
  const loss = bay.lossTorqueNm;
  const ci = part(method.compressionIgnition);
  return {
    id: text(job, 'id') ?? title,
    title,
    openedAt: text(job, 'openedAt'),
    timeZone: text(job, 'timeZone'),
    vehicle: {
      ...UNKNOWN_VEHICLE,
      label: text(vehicle, 'label') ?? '',
      massKg: number(vehicle, 'massKg'),
      engineToRollerRatio: number(vehicle, 'engineToRollerRatio'),
      drivenWheels: choice(
        text(vehicle, 'drivenWheels'),
        ['front', 'rear', 'all', 'motorcycle'],
        'vehicle.drivenWheels',
      ),
      aspiration: choice(text(vehicle, 'aspiration'), ['natural', 'turbo', 'supercharged'], 'vehicle.aspiration'),
      transmission: choice(text(vehicle, 'transmission'), ['manual', 'automatic', 'cvt'], 'vehicle.transmission'),
      ...(vehicle.heatSensitive === true ? { heatSensitive: true } : {}),
    },
    bay: {
      ...UNKNOWN_BAY,
      label: text(bay, 'label') ?? '',
      kind: choice(text(bay, 'kind'), ['inertia', 'braked', 'linked', 'split', 'hub'], 'bay.kind'),
      rollerInertiaKgM2: number(bay, 'rollerInertiaKgM2'),
      readoutScale: number(bay, 'readoutScale') ?? 1,
      calibrationEpoch: text(bay, 'calibrationEpoch'),
      elevationM: number(bay, 'elevationM'),
      lossTorqueNm:
        Array.isArray(loss) && loss.length === 3 && loss.every((v) => typeof v === 'number')
          ? (loss as [number, number, number])
          : null,
      verdictConstants: Object.fromEntries(
        Object.entries(part(bay.verdictConstants)).filter(([, v]) => typeof v === 'number'),
      ),
      prior: bayPriorOf(bay.prior),
    },
    question: {
      ...DEFAULT_QUESTION,
      text: text(question, 'text') ?? title,
      baselineSetup,
      candidateSetups,
      measures: measuresOf(question),
      windowRpm: windowOf(question.windowRpm),
      confidence: confidenceOf(number(question, 'confidence')),
      partChangesIntakeTemperature: question.partChangesIntakeTemperature === true,
      plan: Array.isArray(question.plan)
        ? question.plan
            .map(part)
            .map((s) => ({ setup: String(s.setup), settle: countOf(s.settle), counted: countOf(s.counted) }))
        : [],
      extension: question.extension === 'declared' || question.extension === 'undeclared' ? question.extension : null,
    },
    method: {
      correction,
      averagingWidthRpm: number(method, 'averagingWidthRpm') ?? DEFAULT_METHOD.averagingWidthRpm,
      settlePulls: number(method, 'settlePulls') ?? DEFAULT_METHOD.settlePulls,
      gates: part(method.gates),
      ...(text(method, 'name') ? { name: text(method, 'name')! } : {}),
      ...(method.schools ? { schools: wordsOf(method.schools) } : {}),
      ...(number(ci, 'fuelMgPerLitreCycle') !== null
        ? {
            compressionIgnition: {
              turbocharged: ci.turbocharged === true,
              fuelMgPerLitreCycle: number(ci, 'fuelMgPerLitreCycle')!,
              boostPressureRatio: number(ci, 'boostPressureRatio') ?? 1,
            },
          }
        : {}),
    },
    setups,
    pulls,
    weather,
    ...(prandel.day ? { day: dayOf(part(prandel.day)) } : {}),
  };
}

/** A number of pulls in a plan. */
function countOf(value: unknown): number {
  const count = Number(value ?? 0);
  if (Number.isInteger(count) && count >= 0 && count <= 200) return count;
  throw new UnreadableError(
    'datapackage.json: question.plan asks for a number of pulls that is no number from 0 to 200.',
  );
}

function wordsOf(value: unknown): Record<string, string> {
  return Object.fromEntries(
    Object.entries(part(value)).filter((entry): entry is [string, string] => typeof entry[1] === 'string'),
  );
}

/** Papers of the day in the bay; what is absent is the usual. */
function dayOf(day: Json): JobDay {
  const card = part(day.modelCard);
  const { search, searches, ...rest } = day;
  const found = faultSearchesOf(searches, search);
  return {
    ...USUAL_DAY,
    ...(rest as Partial<JobDay>),
    ...(found.length > 0 ? { searches: found } : {}),
    intake: wordsOf(day.intake),
    modelCard: {
      ...USUAL_DAY.modelCard,
      ...(card as Partial<JobDay['modelCard']>),
      sensors: { ...USUAL_DAY.modelCard.sensors, ...part(card.sensors) },
    },
    plan: { ...USUAL_DAY.plan, ...part(day.plan) },
    abortLimits: Array.isArray(day.abortLimits) ? (day.abortLimits as JobDay['abortLimits']) : [],
    fittings: Array.isArray(day.fittings) ? (day.fittings as JobDay['fittings']) : [],
  };
}

function windowOf(value: unknown): [number, number] | null {
  if (value === undefined || value === null) return null;
  if (
    Array.isArray(value) &&
    value.length === 2 &&
    value.every((v) => typeof v === 'number' && v > 0) &&
    value[1] > value[0]
  )
    return value as [number, number];
  throw new UnreadableError(
    'datapackage.json: question.windowRpm must be two rising engine speeds, such as [3000, 7000].',
  );
}

/** What the bay had shown of itself when the job was judged. @throws UnreadableError when it is not that */
function bayPriorOf(value: unknown): BayPrior | null {
  if (value === undefined || value === null) return null;
  if (isBayPrior(value)) return value;
  throw new UnreadableError(
    'datapackage.json: bay.prior is not what a bay learned (docs/job-package.md says what it holds). Leave it out to judge as in any bay.',
  );
}

function confidenceOf(value: number | null): number {
  if (value === null) return DEFAULT_QUESTION.confidence;
  if (value > 0.5 && value < 1) return value;
  throw new UnreadableError(`datapackage.json: question.confidence ${value} is not between 0.5 and 1.`);
}
