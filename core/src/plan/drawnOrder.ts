import { uniformInt } from 'pure-rand/distribution/uniformInt';
import { mersenne } from 'pure-rand/generator/mersenne';
import type { DrawnOrder } from '../bay/jobDay.ts';
import type { Job, PlanStep } from '../job/job.ts';

/**
 * Draws the order in which candidates go on the car: a Fisher–Yates shuffle (Durstenfeld 1964, CACM Algorithm 235) with
 * the Mersenne Twister, so that the seed in the job's papers repeats the draw.
 * @example drawOrder(['B', 'C', 'D'], 7).candidates // ['C', 'B', 'D']
 */
export function drawOrder(candidates: readonly string[], seed: number): DrawnOrder {
  const chance = mersenne(seed);
  // Sorted first: the draw depends on which setups there are, not on how they were listed.
  const drawn = [...candidates].sort();
  for (let i = drawn.length - 1; i > 0; i -= 1) {
    const j = uniformInt(chance, 0, i);
    [drawn[i], drawn[j]] = [drawn[j]!, drawn[i]!];
  }
  return { seed, candidates: drawn };
}

/**
 * Whether a draw is still one of exactly these candidates.
 * @example drawStands(drawOrder(['B', 'C'], 7), ['C', 'B']) // true
 */
export function drawStands(drawn: DrawnOrder | null | undefined, candidates: readonly string[]): drawn is DrawnOrder {
  return Boolean(drawn) && [...drawn!.candidates].sort().join() === [...candidates].sort().join();
}

/**
 * Candidates in the order in which they go on: as drawn where the day asks for it, else as the question names them.
 * @example orderedCandidates(newJob('1', 'x')) // ['B']
 */
export function orderedCandidates(job: Pick<Job, 'question' | 'day'>): readonly string[] {
  const { candidateSetups } = job.question;
  const plan = job.day?.plan;
  return plan?.order === 'randomised' && drawStands(plan.drawn, candidateSetups)
    ? plan.drawn.candidates
    : candidateSetups;
}

/**
 * A plan with its candidates changed to the drawn order; rounds keep their places, lengths and return checks.
 * @example inDrawnOrder([{ setup: 'A', settle: 2, counted: 3 }, { setup: 'B', settle: 2, counted: 3 }, { setup: 'C', settle: 2, counted: 3 }], { seed: 1, candidates: ['C', 'B'] }).map((s) => s.setup) // ['A', 'C', 'B']
 */
export function inDrawnOrder(steps: readonly PlanStep[], { candidates }: DrawnOrder): PlanStep[] {
  const before = [...new Set(steps.map((s) => s.setup).filter((id) => candidates.includes(id)))];
  const now = candidates.filter((id) => before.includes(id));
  return steps.map((s) => ({ ...s, setup: now[before.indexOf(s.setup)] ?? s.setup }));
}

/**
 * Rounds of the plan that nobody has begun, in order; empty once all are, or where no plan was written down.
 * @example plannedRoundsLeft(newJob('1', 'x')).length // 0
 */
export function plannedRoundsLeft(job: Job): PlanStep[] {
  const begun = new Map<string, number>();
  for (const { setupId, round } of job.pulls) begun.set(setupId, Math.max(begun.get(setupId) ?? 0, round));
  const seen = new Map<string, number>();
  return job.question.plan.filter(({ setup }) => {
    const nth = (seen.get(setup) ?? 0) + 1;
    seen.set(setup, nth);
    return nth > (begun.get(setup) ?? 0);
  });
}
