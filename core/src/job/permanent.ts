import { setupLine } from './changes.ts';
import { repeatedSetup, type Setup } from './job.ts';

/** A setup that is run with something on the car that it is not made from. */
export interface Carried {
  readonly setup: string;
  /** The setup whose changes cannot come off again. */
  readonly carries: string;
}

/**
 * Setups that are run after one that cannot come off again and are not made from it: their pulls have both on. A return check counts
 * as itself.
 * @param order setups in the order in which they are run, as often as they are
 * @example carriedAlong([newSetup('A', 'a'), { ...newSetup('B', 'b', 'A'), permanent: true }, newSetup('C', 'c', 'A')], 'A', ['A', 'B', 'C']) // [{ setup: 'C', carries: 'B' }]
 */
export function carriedAlong(setups: readonly Setup[], baseline: string, order: readonly string[]): Carried[] {
  const lineOf = (id: string) => {
    const repeated = repeatedSetup(setups, id);
    return repeated === baseline ? [] : setupLine(setups, repeated, baseline);
  };
  const stays = new Set<string>();
  const found: Carried[] = [];
  for (const id of order) {
    const line = lineOf(id);
    for (const carries of stays)
      if (!line.some((s) => s.id === carries) && !found.some((f) => f.setup === id && f.carries === carries))
        found.push({ setup: id, carries });
    for (const s of line) if (s.permanent) stays.add(s.id);
  }
  return found;
}

/**
 * The same of the pulls of a job by their time; pulls without one keep their place in the job.
 * @example carriedByPulls(newJob('1', 'x')) // []
 */
export function carriedByPulls({
  setups,
  pulls,
  question,
}: {
  readonly setups: readonly Setup[];
  readonly pulls: readonly { readonly setupId: string; readonly startedAt: string | null }[];
  readonly question: { readonly baselineSetup: string };
}): Carried[] {
  const timed = pulls.every((p) => p.startedAt !== null);
  const inOrder = timed ? [...pulls].sort((a, b) => Date.parse(a.startedAt!) - Date.parse(b.startedAt!)) : pulls;
  return carriedAlong(
    setups,
    question.baselineSetup,
    inOrder.map((p) => p.setupId),
  );
}
