import { mean } from '../statistics/summary.ts';

/** A counted pull as the engine sees it: `side` 0 is the baseline (its return checks too), 1… the candidates. */
export interface EnginePull {
  readonly id: string;
  readonly side: number;
  /** Setup and round number together; pulls that share it were made without touching the car. */
  readonly roundKey: string;
  /** Hours since any fixed moment. */
  readonly hours: number;
  /** Start temperature of the intake air above the bay's air, °C; null when not measured. */
  readonly startC: number | null;
}

export interface Round {
  readonly side: number;
  readonly members: readonly number[];
  readonly meanHours: number;
}

/** Two neighbouring rounds of one side with a round of the other between them. Indices into the rounds. */
export interface Bracket {
  readonly earlier: number;
  readonly later: number;
}

/** Rounds in the order of their first pull. */
export function roundsOf(pulls: readonly EnginePull[]): Round[] {
  const byKey = new Map<string, number[]>();
  const order = pulls.map((_, i) => i).sort((a, b) => pulls[a]!.hours - pulls[b]!.hours || a - b);
  for (const i of order) {
    const members = byKey.get(pulls[i]!.roundKey);
    if (members) members.push(i);
    else byKey.set(pulls[i]!.roundKey, [i]);
  }
  return [...byKey.values()].map((members) => ({
    side: pulls[members[0]!]!.side,
    members: [...members].sort((a, b) => a - b),
    meanHours: mean(members.map((i) => pulls[i]!.hours)),
  }));
}

/**
 * Brackets of a job: neighbouring baseline rounds around a candidate's, and neighbouring rounds of a candidate around
 * the baseline's.
 */
export function bracketsOf(rounds: readonly Round[]): Bracket[] {
  const found: Bracket[] = [];
  for (let earlier = 0; earlier < rounds.length; earlier += 1) {
    const side = rounds[earlier]!.side;
    const later = rounds.findIndex((round, i) => i > earlier && round.side === side);
    if (later < 0) continue;
    const between = rounds.slice(earlier + 1, later);
    const other = side === 0 ? between.length > 0 : between.some((round) => round.side === 0);
    if (other) found.push({ earlier, later });
  }
  return found;
}

/** The largest number of brackets that do not overlap in time (they may share the round where one ends and the next begins). */
export function disjointBrackets(brackets: readonly Bracket[]): number {
  let count = 0;
  let end = -1;
  for (const bracket of [...brackets].sort((a, b) => a.later - b.later)) {
    if (bracket.earlier >= end) {
      count += 1;
      end = bracket.later;
    }
  }
  return count;
}
