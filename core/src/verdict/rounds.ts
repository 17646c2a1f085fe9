/** A counted pull with its place in the day: `side` 0 is the baseline (its return checks too), 1… the candidates. */
export interface PlacedPull {
  readonly side: number;
  /** Setup and round number together; pulls that share it were made without touching the car. */
  readonly roundKey: string;
  /** Hours since any fixed moment. */
  readonly hours: number;
}

export interface Round {
  readonly side: number;
  /** Indices into the pulls. */
  readonly members: readonly number[];
}

/** Two neighbouring rounds of one side with a round of the other between them. Indices into the rounds. */
export interface Bracket {
  readonly earlier: number;
  readonly later: number;
}

/** Rounds in the order of their first pull. */
export function roundsOf(pulls: readonly PlacedPull[]): Round[] {
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

/**
 * The round of every pull: its setup and round number. Pulls of one number with a pull of another setup between them are two rounds,
 * since the car was touched: days that are numbered afresh, or files that bear no number.
 */
export function roundKeys(
  pulls: readonly { readonly setupId: string; readonly round: number; readonly hours: number }[],
): string[] {
  const keys = new Array<string>(pulls.length);
  const order = pulls.map((_, i) => i).sort((a, b) => pulls[a]!.hours - pulls[b]!.hours || a - b);
  const stretches = new Map<string, number>();
  let before = '';
  for (const i of order) {
    const { setupId, round } = pulls[i]!;
    const own = `${setupId}#${round}`;
    if (own !== before) stretches.set(own, (stretches.get(own) ?? 0) + 1);
    before = own;
    const stretch = stretches.get(own)!;
    keys[i] = stretch === 1 ? own : `${own}#${stretch}`;
  }
  return keys;
}
