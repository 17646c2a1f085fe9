import { median } from '../statistics/summary.ts';
import { LEAST_JOBS, learnedNoise, type BayMedians, type JobTable, type LearnedNoise } from './engine/history.ts';
import { USUAL_MODEL } from './engine/model.ts';
import { USUAL_MEDIANS } from './engine/planFloor.ts';

/** Measures whose noise is learned together. */
export const NOISE_CLASSES = ['power', 'bands', 'temperature', 'pressure', 'time'] as const;
export type NoiseClass = (typeof NOISE_CLASSES)[number];

/** Until so many return checks and reference rounds are in, nobody knows how a bay drifts (judgement backed by simulated days). */
export const RETURN_CHECKS_NEEDED = 8;

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
    whole(mountDrift.flat()) &&
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
