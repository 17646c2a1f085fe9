import type { FittingTime } from '../bay/jobDay.ts';
import { setupLine } from '../job/changes.ts';
import { repeatedSetup, type Job, type Setup } from '../job/job.ts';

/** How long a change from one setup to another takes, and who says so. */
export interface ChangeTime extends FittingTime {
  /** `typed` into the table, the hours of the `parts` that come off and go on, or the plan's own minutes of fitting. */
  readonly source: 'typed' | 'parts' | 'plan';
}

/** The steps that come off and those that go on, between two setups of a tree. */
function between(setups: readonly Setup[], from: string, to: string, baseline: string): Setup[] {
  const [off, on] = [from, to].map((id) => (id === baseline ? [] : setupLine(setups, id, baseline)));
  const common = off!.filter((s) => on!.includes(s));
  return [...off!, ...on!].filter((s) => !common.includes(s));
}

/**
 * Minutes from one setup to another on the car. Return checks count as what they repeat.
 * @param fallback minutes where neither the table nor the hours of the parts say anything
 * @example changeTime({ setups: [newSetup('A', 'a'), { ...newSetup('B', 'b', 'A'), labourHours: 0.5 }], baseline: 'A' }, [], 50, 'A', 'B').minutes // 30
 */
export function changeTime(
  { setups, baseline }: { readonly setups: readonly Setup[]; readonly baseline: string },
  typed: readonly FittingTime[],
  fallback: number,
  from: string,
  to: string,
): ChangeTime {
  const [a, b] = [from, to].map((id) => repeatedSetup(setups, id)) as [string, string];
  const own = typed.find((t) => t.from === a && t.to === b);
  if (own) return { from: a, to: b, minutes: own.minutes, source: 'typed' };
  const hours = between(setups, a, b, baseline).map((s) => s.labourHours);
  if (hours.length > 0 && hours.every((h) => h !== null))
    return { from: a, to: b, minutes: Math.round(60 * hours.reduce((sum, h) => sum + h, 0)), source: 'parts' };
  return { from: a, to: b, minutes: a === b ? 0 : fallback, source: 'plan' };
}

/**
 * The whole table between the baseline and the candidates of a job, in order.
 * @example fittingTable(newJob('1', 'x'), [], 50).map((t) => `${t.from}${t.to}`) // ['AB', 'BA']
 */
export function fittingTable(
  job: Pick<Job, 'setups' | 'question'>,
  typed: readonly FittingTime[],
  fallback: number,
): ChangeTime[] {
  const { baselineSetup, candidateSetups } = job.question;
  const all = [baselineSetup, ...candidateSetups];
  return all.flatMap((from) =>
    all
      .filter((to) => to !== from)
      .map((to) => changeTime({ setups: job.setups, baseline: baselineSetup }, typed, fallback, from, to)),
  );
}
