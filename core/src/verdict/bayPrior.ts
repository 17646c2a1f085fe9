import { pullsInOrder, type Job, type Pull } from '../job/job.ts';
import { planComplete } from '../bay/roundProgress.ts';
import { median } from '../statistics/summary.ts';
import { measuredBands } from './bands.ts';
import { endpointOf, inEngine } from './endpoint.ts';
import {
  jobTable,
  learnedNoise,
  LEAST_JOBS,
  type BayMedians,
  type JobTable,
  type LearnedNoise,
} from './engine/history.ts';
import { modelOf, USUAL_MODEL } from './engine/model.ts';
import { USUAL_MEDIANS } from './engine/planFloor.ts';
import { prepare } from './engine/prepare.ts';
import { MEASURE_FACTS } from './measures.ts';
import type { JudgedPull, Judgement } from './outcome.ts';
import { roundKeys } from './rounds.ts';
import { wasUnstrapped } from './settings.ts';
import { sideOfSetup } from './selection.ts';

/** Measures whose noise is learned together. */
export const NOISE_CLASSES = ['power', 'bands', 'temperature'] as const;
export type NoiseClass = (typeof NOISE_CLASSES)[number];

/** What a bay had shown of itself on some day. A job keeps the one it was judged with; a package carries it. */
export interface BayPrior {
  /** Finished jobs, and return checks and reference rounds among them. */
  readonly jobs: number;
  readonly returnChecks: number;
  /** Absent: too little is known of a class, and the bay is taken to be like any. */
  readonly learned: Readonly<Partial<Record<NoiseClass, LearnedNoise>>>;
}

/** What one job tells of its bay. */
export interface BayRecord {
  readonly tables: readonly { readonly noiseClass: NoiseClass; readonly table: JobTable }[];
  /** Rounds of a setup after its first. */
  readonly returnChecks: number;
  /** Median minutes from pull to pull within its rounds, settle pulls included; null under two. */
  readonly minutesPerPull: number | null;
}

const NOTHING: BayRecord = { tables: [], returnChecks: 0, minutesPerPull: null };

/**
 * What a finished job leaves to its bay: one table for the power over the window, one for each band, one for a temperature that was
 * asked about. Pulls that bear a mark (a gate overridden) or were left out say nothing about how the bay repeats.
 * @example bayRecord(newJob('1', 'x'), judgeJob(newJob('1', 'x'))).tables // []
 */
export function bayRecord(job: Job, judgement: Judgement): BayRecord {
  if (job.day && !planComplete(job)) return NOTHING;
  const pullOf = new Map(job.pulls.map((p) => [p.id, p]));
  const clean = judgement.pulls.filter((p) => p.used && !pullOf.get(p.id)!.marks?.length && p.windowMeanW > 0);
  if (clean.length < 2) return NOTHING;
  const keys = roundKeys(clean.map((p) => ({ ...p, round: pullOf.get(p.id)!.round })));
  const names = [...new Set(keys)];
  const side = (p: JudgedPull) => sideOfSetup(job, p.setupId)!;
  const setups = new Set(clean.map(side));
  const pulls = clean.map((p, i) => ({
    setup: side(p),
    round: names.indexOf(keys[i]!),
    hours: p.hours,
    startC: p.startAboveAirC,
  }));
  const options = {
    model: modelOf(job.bay.verdictConstants),
    unstrapped: wasUnstrapped(job, (id) => clean.some((p) => p.setupId === id)),
    meantToChange: job.question.partChangesIntakeTemperature,
  };
  const prepared = prepare(pulls, options);
  const returnChecks = names.length - setups.size;
  const minutesPerPull = intervalOf(job);
  if (prepared.degrees === 0) return { ...NOTHING, minutesPerPull };
  const power = MEASURE_FACTS.windowMeanPower;
  const table = (noiseClass: NoiseClass, values: readonly number[]) => ({
    noiseClass,
    table: jobTable(prepared, values),
  });
  const tables = [
    table(
      'power',
      clean.map((p) => inEngine(power, p.windowMeanW)),
    ),
    ...measuredBands(clean.map((p) => p.power)).map(({ means }) =>
      table(
        'bands',
        means.map((value) => inEngine(power, value)),
      ),
    ),
    ...temperatureTable(job, clean, pulls, options),
  ];
  return { tables, returnChecks, minutesPerPull };
}

function temperatureTable(
  job: Job,
  clean: readonly JudgedPull[],
  pulls: Parameters<typeof prepare>[0],
  options: Parameters<typeof prepare>[1],
): BayRecord['tables'] {
  const endpoint = endpointOf(job.question.measure);
  if (endpoint.quantity !== 'temperature') return [];
  const own = new Map(job.pulls.map((p) => [p.id, p]));
  const values = clean.map((p) => inEngine(endpoint, startC(job, own.get(p.id)!)));
  if (!values.every(Number.isFinite)) return [];
  return [{ noiseClass: 'temperature', table: jobTable(prepare(pulls, { ...options, meantToChange: true }), values) }];
}

function startC({ question }: Job, pull: Pull): number {
  switch (question.measure) {
    case 'intakeStartTemperature':
      return pull.intakeStartC ?? NaN;
    case 'coolantStartTemperature':
      return pull.coolantStartC ?? NaN;
    default:
      return pull.oilStartC ?? NaN;
  }
}

function intervalOf(job: Job): number | null {
  const pulls = pullsInOrder(job.pulls);
  const minutes = pulls.slice(1).flatMap((pull, i) => {
    const before = pulls[i]!;
    if (pull.setupId !== before.setupId || pull.round !== before.round || !pull.startedAt || !before.startedAt)
      return [];
    return [(Date.parse(pull.startedAt) - Date.parse(before.startedAt)) / 60_000];
  });
  return minutes.length < 2 ? null : median(minutes);
}

/** What a bay has learned, and what a plan on it should reckon with. */
export interface BayLearned {
  readonly prior: BayPrior;
  /** Median minutes from pull to pull; null where nobody knows. */
  readonly minutesPerPull: number | null;
}

/**
 * What the jobs of a bay say of it: from five jobs on its scatter, mounts and drift; before, it is a bay like any.
 * @example bayLearned([]).prior // { jobs: 0, returnChecks: 0, learned: {} }
 */
export function bayLearned(records: readonly BayRecord[]): BayLearned {
  const own = records.filter((r) => r.tables.length > 0);
  const jobsWith = (noiseClass: NoiseClass) =>
    own.filter((r) => r.tables.some((t) => t.noiseClass === noiseClass)).length;
  const learned = Object.fromEntries(
    NOISE_CLASSES.flatMap((noiseClass) => {
      const tables = own.flatMap((r) => r.tables.filter((t) => t.noiseClass === noiseClass).map((t) => t.table));
      const noise = jobsWith(noiseClass) < LEAST_JOBS ? null : learnedNoise(tables);
      return noise ? [[noiseClass, noise]] : [];
    }),
  );
  const intervals = records.flatMap((r) => r.minutesPerPull ?? []);
  return {
    prior: { jobs: own.length, returnChecks: own.reduce((sum, r) => sum + r.returnChecks, 0), learned },
    minutesPerPull: intervals.length > 0 ? median(intervals) : null,
  };
}

/**
 * Scatter, mount and drift of a bay as people read them, per cent and per cent an hour: what it has learned, else what any bay is
 * taken to be.
 * @example mediansOf(null).scatter // 0.45
 */
export function mediansOf(prior: BayPrior | null): BayMedians {
  return prior?.learned.power?.medians ?? USUAL_MEDIANS;
}

const isTable = (value: unknown, n: number): value is number[] =>
  Array.isArray(value) && value.length === n && value.every((v) => typeof v === 'number' && v >= 0);

function isLearnedNoise(value: unknown): boolean {
  if (typeof value !== 'object' || value === null) return false;
  const { scatter, mountDrift, medians } = value as Record<string, unknown>;
  const { scatterNodes, mountNodes, driftNodes } = USUAL_MODEL;
  if (!isTable(scatter, scatterNodes.length) || !Array.isArray(mountDrift)) return false;
  if (mountDrift.length !== mountNodes.length || !mountDrift.every((row) => isTable(row, driftNodes.length)))
    return false;
  const whole = (list: readonly number[]) => Math.abs(list.reduce((a, b) => a + b, 0) - 1) < 1e-6;
  const own = typeof medians === 'object' && medians !== null ? (medians as Record<string, unknown>) : {};
  return (
    whole(scatter) &&
    whole((mountDrift).flat()) &&
    [own.scatter, own.mount, own.drift].every((v) => typeof v === 'number' && v > 0 && Number.isFinite(v))
  );
}

/**
 * Whether a value read from outside is what a bay had shown: counts, and probabilities over the engine's nodes that sum to 1.
 * @example isBayPrior({ jobs: 2, returnChecks: 1, learned: {} }) // true
 */
export function isBayPrior(value: unknown): value is BayPrior {
  if (typeof value !== 'object' || value === null) return false;
  const { jobs, returnChecks, learned } = value as Record<string, unknown>;
  const count = (v: unknown) => Number.isInteger(v) && (v as number) >= 0;
  return (
    count(jobs) &&
    count(returnChecks) &&
    typeof learned === 'object' &&
    learned !== null &&
    Object.entries(learned).every(([key, noise]) => NOISE_CLASSES.some((c) => c === key) && isLearnedNoise(noise))
  );
}
