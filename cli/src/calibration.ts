import { judgeJob } from '@prandel/core';
import {
  answerOf,
  fitContrast,
  jobTable,
  learnedNoise,
  prepare,
  priorsWith,
  usualPrior,
  type NodePrior,
} from '@prandel/core/engine';
import { curveDay, Random, worldDay, WORLDS, type World } from '@prandel/simulator';

/** What a row of days gave; shares of the days, half-widths in log-percent. */
export interface Calibrated {
  /** Intervals that exclude 0 on days where the part does nothing. */
  readonly falseClaims: number;
  readonly covers: number;
  readonly halfWidth: number;
  /** Standard error of the mean half-width over the days. */
  readonly halfWidthError: number;
  /** Days of a part worth 1 % and 2 % that are called a gain. */
  readonly finds1: number;
  readonly finds2: number;
}

const SEED = 20260501;
/** Days that share a bay with a memory of its own. */
const DAYS_A_BAY = 40;
const JOBS_A_BAY = 50;

/** Reads so many days of a world without a gain; the same day with a gain is the same interval moved. */
function readDays(world: World, plan: string, days: number, random: Random, prior: NodePrior): Calibrated {
  let [falseClaims, covers, halfWidth, squares, finds1, finds2] = [0, 0, 0, 0, 0, 0];
  for (let day = 0; day < days; day += 1) {
    const { pulls, y } = worldDay(world, plan, [0], random);
    const prepared = prepare(pulls);
    const { low, high } = answerOf(prepared, fitContrast(prepared, y, [-1, 1], prior));
    if (low > 0 || high < 0) falseClaims += 1;
    else covers += 1;
    halfWidth += (high - low) / 2;
    squares += ((high - low) / 2) ** 2;
    // A gain adds to every pull of B alike: estimate and ends move by it and nothing else changes.
    if (low + 100 * Math.log(1.01) > 0) finds1 += 1;
    if (low + 100 * Math.log(1.02) > 0) finds2 += 1;
  }
  const share = (count: number) => count / days;
  return {
    ...{ falseClaims: share(falseClaims), covers: share(covers), halfWidth: halfWidth / days },
    halfWidthError: Math.sqrt(Math.max(0, squares / days - (halfWidth / days) ** 2) / days),
    ...{ finds1: share(finds1), finds2: share(finds2) },
  };
}

/** Days of a bay of which nothing is known. */
export function withoutHistory(world: World, plan: string, days: number): Calibrated {
  return readDays(world, plan, days, new Random(SEED), usualPrior());
}

/** Days of bays that remember fifty jobs with return checks, A3 B3 A2 each. */
export function afterFiftyJobs(world: World, plan: string, days: number): Calibrated {
  const bays = Math.ceil(days / DAYS_A_BAY);
  const rows = Array.from({ length: bays }, (_, bay) => {
    const random = new Random(SEED + 1000 + bay);
    const tables = Array.from({ length: JOBS_A_BAY }, () => {
      const { pulls, y } = worldDay(world, 'A3 B3 A2', [0], random);
      return jobTable(prepare(pulls), y);
    });
    const { prior } = priorsWith(learnedNoise(tables));
    return readDays(world, plan, DAYS_A_BAY, random, prior);
  });
  const mean = (of: (row: Calibrated) => number) => rows.reduce((sum, row) => sum + of(row), 0) / bays;
  return {
    falseClaims: mean((r) => r.falseClaims),
    covers: mean((r) => r.covers),
    halfWidth: mean((r) => r.halfWidth),
    halfWidthError: mean((r) => r.halfWidthError) / Math.sqrt(bays),
    finds1: mean((r) => r.finds1),
    finds2: mean((r) => r.finds2),
  };
}

interface Row {
  readonly world: World;
  readonly plan: string;
  /** Published figures (docs/method.md names the worlds): false claims %, half-width %, of the engine before and of this one. */
  readonly before: string;
  readonly published: string;
}

const row = (world: World, plan: string, before: string, published: string): Row => ({
  ...{ world, plan, before, published },
});

/** 1,000 days a row in worlds made for the purpose: "false claims, half-width" before; the same of this engine, then covers and half-width after 50 jobs. */
const ROWS: readonly Row[] = [
  row(WORLDS.calm, 'A3 B3', '0.0, 1.60', '0.0, 1.17 | 98.3, 0.67'),
  row(WORLDS.calm, 'A3 B3 A2', '0.1, 0.87', '0.6, 0.70 | 98.0, 0.54'),
  row(WORLDS.usual, 'A3 B3', '0.6, 1.70', '2.1, 1.46 | 96.7, 1.10'),
  row(WORLDS.usual, 'A3 B3 A2', '1.9, 1.05', '2.7, 0.95 | 95.5, 0.87'),
  row(WORLDS.usual, 'A2 B2 A2 B2', '1.7, 1.05', '3.8, 0.80 (pulls a round not stated)'),
  row(WORLDS.turbo, 'A3 B3 A2', '2.6, 1.10', '2.5, 1.01 | 96.0, 0.93'),
  row(WORLDS.heavyTails, 'A3 B3 A2', '1.9, 1.14', '3.7, 0.93 | 95.2, 0.85'),
  row(WORLDS.wild, 'A3 B3', '9.6, 2.10', '9.7, 2.16 | 95.6, 2.23'),
  row(WORLDS.wild, 'A3 B3 A2', '9.2, 1.66', '9.9, 1.53 | 94.7, 1.73'),
  row(WORLDS.quietDrifter, 'A3 B3', '0.8, 1.66', '6.4, 1.20 | 95.7, 1.12'),
];

/** A mean half-width with its standard error. */
const width = (c: Calibrated) => `${c.halfWidth.toFixed(3)} (±${c.halfWidthError.toFixed(3)})`;
const percent = (share: number) => (100 * share).toFixed(1);

/** Prints the calibration table: what this run gave beside the published figures of this engine and of the one before it. */
export function printCalibration(days: number, print: (line: string) => void): void {
  print(`calibration over ${days} simulated days a row (seeded); nominal false claims 5 %, coverage 95 %`);
  print(
    'world, plan: false claims %, covers %, found of +1 %, found of +2 %, half-width %; after 50 jobs: covers, half-width',
  );
  for (const { world, plan, before, published } of ROWS) {
    const now = withoutHistory(world, plan, days);
    const later = afterFiftyJobs(world, plan, days);
    print(
      `${world.name}, ${plan}: ${percent(now.falseClaims)}, ${percent(now.covers)}, ${percent(now.finds1)}, ${percent(now.finds2)}, ${width(now)}; after 50 jobs: ${percent(later.covers)}, ${width(later)}  [published: ${published}; the engine before: ${before}]`,
    );
  }
  printSchools(Math.min(days, 400), print);
}

/** Whole jobs, curves and all: false claims of the verdict, and how often each school of the trade claims a gain from nothing. */
function printSchools(days: number, print: (line: string) => void): void {
  const tally = calibrateJobs([['A', 3], ['B', 3]], 0, days); // prettier-ignore
  const share = (count: number) => `${((100 * count) / days).toFixed(1)} %`;
  print(
    `whole jobs, A3 B3, a part that does nothing, ${days} days: false claims ${share(tally.gain + tally.loss)}; schools claim above zero: ${[...tally.schools].map(([id, c]) => `${id} ${share(c)}`).join(', ')}`,
  );
}

/** Counts over seeded days of one plan and one truth, judged as whole jobs. */
export function calibrateJobs(rounds: readonly (readonly [string, number])[], truePercent: number, days: number) {
  const tally = { gain: 0, loss: 0, none: 0, covered: 0, half: 0, schools: new Map<string, number>() };
  for (let day = 0; day < days; day += 1) {
    const judgement = judgeJob(curveDay({ seed: 1000 + day, rounds, truePercent }), 'verdict');
    const v = judgement.verdicts[0]!;
    if (v.verdict === 'verified-gain') tally.gain += 1;
    if (v.verdict === 'verified-loss') tally.loss += 1;
    if (v.verdict === 'no-meaningful-change') tally.none += 1;
    const [low, high] = [v.gain?.lowPercent ?? NaN, v.gain?.highPercent ?? NaN];
    if (low <= truePercent && truePercent <= high) tally.covered += 1;
    tally.half += v.gain ? (high - low) / 2 : 0;
    for (const s of v.schools) if ((s.percent ?? 0) > 0) tally.schools.set(s.id, (tally.schools.get(s.id) ?? 0) + 1);
  }
  return tally;
}
