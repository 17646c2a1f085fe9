import { type Job } from '../job/job.ts';
import { mean, sum } from '../statistics/summary.ts';
import type { JudgedPull, Judgement } from '../verdict/outcome.ts';
import { roundKeys } from '../verdict/rounds.ts';

/** Start temperature to which levels are brought, °C above the bay's air; any fixed one would do. */
const AT_C = 10;
/** What a degree of start temperature costs, per cent; as the engine has it (docs/method.md, heat). */
const HEAT = 0.1;

/** What one job says of its bay: how its pulls repeat, how far a return check came back, and where a car that never changes reads. */
export interface BayPoint {
  /** Mean power of the baseline's counted pulls over the window, log-percent, brought to one start temperature; null without. */
  readonly level: number | null;
  /** Sum of squares within rounds, log-percent², and its degrees of freedom: what repeatability is pooled from. */
  readonly squares: number;
  readonly degrees: number;
  /** Later minus earlier round of the baseline, log-percent; null without a return check. */
  readonly returned: number | null;
  /** How many pulls of the first round came before the car read as it went on to read; null where the round does not tell. */
  readonly settled: number | null;
}

/** What nobody should call a difference, per cent (common practice, no source). */
const ALIKE = 1;

/**
 * Pulls that bear a mark or were left out say nothing of the bay.
 * @example bayPoint(newJob('1', 'x'), judgeJob(newJob('1', 'x'))).level // null
 */
export function bayPoint(job: Job, judgement: Judgement): BayPoint {
  const marked = new Map(job.pulls.map((p) => [p.id, p]));
  const clean = judgement.pulls.filter((p) => p.used && !marked.get(p.id)!.marks?.length && p.windowMeanW > 0);
  const keys = roundKeys(clean.map((p) => ({ ...p, round: marked.get(p.id)!.round })));
  const levelOf = ({ windowMeanW, startAboveAirC }: JudgedPull) =>
    100 * Math.log(windowMeanW) + HEAT * ((startAboveAirC ?? AT_C) - AT_C);
  const rounds = [...new Set(keys)].map((key) => {
    const own = clean.filter((_, i) => keys[i] === key);
    return { pulls: own, levels: own.map(levelOf) };
  });
  const many = rounds.filter((r) => r.levels.length > 1);
  const baseline = rounds.filter((r) => sideIsBaseline(job, r.pulls[0]!.setupId));
  const [first] = baseline;
  const last = baseline.at(-1);
  return {
    level: first ? mean(first.levels) : null,
    squares: sum(many.flatMap(({ levels }) => levels.map((v) => (v - mean(levels)) ** 2))),
    degrees: many.reduce((n, { levels }) => n + levels.length - 1, 0),
    returned: first && last && last !== first ? mean(last.levels) - mean(first.levels) : null,
    settled: settledAfter(job, judgement, levelOf),
  };
}

/** The first pull of the first round from which on every pull lies within 1 % of the mean of those that count. */
function settledAfter(job: Job, { pulls }: Judgement, levelOf: (p: JudgedPull) => number): number | null {
  const known = new Map(job.pulls.map((p) => [p.id, p]));
  const inOrder = pulls.toSorted((a, b) => a.hours - b.hours);
  const [opening] = inOrder;
  if (!opening) return null;
  const round = inOrder.filter(
    (p) => p.setupId === opening.setupId && known.get(p.id)!.round === known.get(opening.id)!.round,
  );
  const counted = round.filter((p) => p.used && p.windowMeanW > 0);
  const read = round.filter((p) => p.status !== 'set-aside' && p.windowMeanW > 0);
  if (counted.length < 2 || read.length < 3) return null;
  const settled = mean(counted.map(levelOf));
  const last = read.findLastIndex((p) => Math.abs(levelOf(p) - settled) > ALIKE);
  return last + 1;
}

function sideIsBaseline(job: Job, setupId: string): boolean {
  const setup = job.setups.find((s) => s.id === setupId);
  return (setup?.returnsTo ?? setupId) === job.question.baselineSetup;
}

/**
 * Repeatability limit r = 2.8·s_r from pooled squares (ISO 5725-2): two pulls in a row differ by more on one of twenty days.
 * @example repeatabilityLimit([{ squares: 2, degrees: 8 }]) // { sd: 0.5, limit: 1.4 }
 */
export function repeatabilityLimit(
  points: readonly Pick<BayPoint, 'squares' | 'degrees'>[],
): { sd: number; limit: number } | null {
  const degrees = points.reduce((n, p) => n + p.degrees, 0);
  if (degrees === 0) return null;
  const sd = Math.sqrt(sum(points.map((p) => p.squares)) / degrees);
  return { sd, limit: 2.8 * sd };
}
