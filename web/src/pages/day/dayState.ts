import {
  numberStateUnder,
  plannedRounds,
  roundsOfDay,
  settlePullsOf,
  type Air,
  type Job,
  type PullStatus,
} from '@prandel/core';
import type { Schemas } from '../../api/client.ts';

export type Laid = Schemas['DayPullDto'];
export type Condition = keyof Laid['conditions'];
export const CONDITIONS = [
  'airC',
  'pressureHpa',
  'relativeHumidity',
  'intakeStartC',
  'coolantStartC',
  'oilStartC',
] as const satisfies readonly Condition[];

/** A pull of the day as it would be imported; the page changes nothing else. */
export interface DayRow {
  /** Place of the pull in the layout. */
  readonly place: number;
  readonly setupId: string;
  /** Somebody said so; else the plan did. */
  readonly told: boolean;
  /** A new round begins here. */
  readonly begins: boolean;
  readonly status: PullStatus | 'left-out';
  readonly reason: string;
  readonly startedMs: number | null;
  readonly timeFrom: string | null;
  /** What somebody typed; null: emptied. */
  readonly typed: Partial<Record<Condition, number | null>>;
  /** Nobody has said yet whether this is another export of a pull. */
  readonly asked: boolean;
}

/** Pulls in the order of the day. */
export type Day = readonly DayRow[];

/** A pull of the same samples is no second pull; one exported again is asked about. */
const isTwin = (pull: Laid) => pull.twin !== null;
const startOf = (pull: Laid) => (pull.when ? Date.parse(pull.when.at) : null);

/** The day as its files and the plan tell it: rounds by their pauses, setups in the planned order, settle pulls first. */
export function dayOf(job: Job, pulls: readonly Laid[]): Day {
  const own = pulls.map((pull, place) => ({
    id: String(place),
    startedMs: startOf(pull),
    round: pull.round,
    pull,
    place,
  }));
  const rounds = roundsOfDay(own.filter(({ pull }) => !isTwin(pull)));
  const planned = plannedRounds(job, rounds.length);
  const rows = rounds.flatMap((ids, r) => {
    const { setup, settle } = planned[r]!;
    return ids.map((id, k): DayRow => ({
      ...{ place: Number(id), setupId: setup, told: false, begins: k === 0, reason: '', typed: {}, asked: false },
      status: k < settlePullsOf(ids.length, settle) ? 'settle' : 'counted',
      startedMs: startOf(pulls[Number(id)]!),
      timeFrom: pulls[Number(id)]!.when?.source ?? null,
    }));
  });
  const twins = own
    .filter(({ pull }) => isTwin(pull))
    .map(({ pull, place }): DayRow => {
      const like = rows.find((r) => r.place === pull.twin!.place);
      return {
        ...{
          place,
          setupId: like?.setupId ?? planned[0]?.setup ?? job.setups[0]!.id,
          told: false,
          begins: false,
          status: 'left-out',
        },
        ...{ reason: '', typed: {}, asked: pull.twin!.kind === 'second-export' },
        startedMs: startOf(pull),
        timeFrom: pull.when?.source ?? null,
      };
    });
  return inOrder([...rows, ...twins]);
}

/** Names of pulls that stay the same when their files are read anew; another number of pulls in a file makes other names. */
function namesOf(pulls: readonly Laid[]): string[] {
  const inFile = new Map<string, number>();
  for (const { fileId } of pulls) inFile.set(fileId, (inFile.get(fileId) ?? 0) + 1);
  return pulls.map(({ fileId, index }) => `${fileId} ${index} of ${inFile.get(fileId)}`);
}

/**
 * A day that was laid out anew, with what a person had put right in it before.
 * @param first the day as it was laid out before, before anybody touched it
 * @param now the same day as it was left
 */
export function carriedOver(
  laid: Day,
  pulls: readonly Laid[],
  before: { readonly first: Day; readonly now: Day; readonly pulls: readonly Laid[] },
): Day {
  const names = namesOf(pulls);
  const oldNames = namesOf(before.pulls);
  const rowsBy = (day: Day) => new Map(day.map((row) => [oldNames[row.place]!, row]));
  const [first, now] = [rowsBy(before.first), rowsBy(before.now)];
  return inOrder(
    laid.map((row) => {
      const [was, is] = [first.get(names[row.place]!), now.get(names[row.place]!)];
      if (!was || !is) return row;
      const touched = (Object.keys(is) as (keyof DayRow)[]).filter((key) => key !== 'place' && is[key] !== was[key]);
      return { ...row, ...Object.fromEntries(touched.map((key) => [key, is[key]])) };
    }),
  );
}

/** By time; without one, where it stood. */
function inOrder(rows: readonly DayRow[]): Day {
  return [...rows].sort((a, b) => (a.startedMs ?? Infinity) - (b.startedMs ?? Infinity) || 0);
}

/** Rounds of the day: pulls of one setup that follow each other. What is left out belongs to none. */
export function roundsOf(day: Day): DayRow[][] {
  const rounds: DayRow[][] = [];
  let begins = true;
  for (const row of day) {
    begins ||= row.begins;
    if (row.status === 'left-out') continue;
    if (begins || rounds.at(-1)?.[0]!.setupId !== row.setupId) rounds.push([]);
    begins = false;
    rounds.at(-1)!.push(row);
  }
  return rounds;
}

const changed = (day: Day, places: readonly number[], patch: (row: DayRow) => Partial<DayRow>): Day =>
  day.map((row) => (places.includes(row.place) ? { ...row, ...patch(row) } : row));

export const withSetup = (day: Day, places: readonly number[], setupId: string): Day =>
  changed(day, places, () => ({ setupId, told: true }));
export const withStatus = (day: Day, place: number, status: DayRow['status'], reason = ''): Day =>
  changed(day, [place], () => ({ status, reason, asked: false }));

/** Steps of undo with the reason of a pull as it is being written: one step, not one for each letter. */
export function withReason(history: readonly Day[], place: number, reason: string): readonly Day[] {
  const [before, now] = [history.at(-2), history.at(-1)!];
  const isWriting =
    before !== undefined &&
    now.every((row, k) => row === before[k] || (row.place === place && row.status === before[k]!.status)) &&
    now.find((row) => row.place === place)!.status === 'set-aside';
  return [...(isWriting ? history.slice(0, -1) : history), withStatus(now, place, 'set-aside', reason)];
}
export const withBegin = (day: Day, place: number): Day => changed(day, [place], (row) => ({ begins: !row.begins }));

/** Types the time of a pull, and moves the whole day with it where that is asked for. */
export function withTime(day: Day, place: number, ms: number, whole: boolean): Day {
  const before = day.find((r) => r.place === place)?.startedMs ?? null;
  if (!whole || before === null) return inOrder(changed(day, [place], () => ({ startedMs: ms, timeFrom: 'typed' })));
  const shift = ms - before;
  return day.map((row) =>
    row.startedMs === null ? row : { ...row, startedMs: row.startedMs + shift, timeFrom: 'typed' },
  );
}

export function withTyped(
  day: Day,
  cells: readonly (readonly [place: number, key: Condition, value: number | null])[],
): Day {
  return day.map((row) => {
    const own = cells.filter(([place]) => place === row.place);
    return own.length === 0
      ? row
      : { ...row, typed: { ...row.typed, ...Object.fromEntries(own.map(([, k, v]) => [k, v])) } };
  });
}

export const valueOf = (row: DayRow, pulls: readonly Laid[], key: Condition): number | null =>
  row.typed[key] !== undefined ? row.typed[key] : (pulls[row.place]!.conditions[key]?.value ?? null);

/** Empty cells of a round take what its first pull that has a value has. */
export function filledDown(day: Day, pulls: readonly Laid[]): Day {
  const cells = roundsOf(day).flatMap((round) =>
    CONDITIONS.flatMap((key) => {
      const first = round.find((row) => valueOf(row, pulls, key) !== null);
      if (!first) return [];
      const value = valueOf(first, pulls, key);
      return round.filter((row) => valueOf(row, pulls, key) === null).map((row) => [row.place, key, value] as const);
    }),
  );
  return withTyped(day, cells);
}

export type Answers = Schemas['ShapeAnswersDto'];
export const NO_ANSWERS = { standard: null, factor: null, averagingRpm: null, rpmPerKmH: null } as const;

/** What files of one header say of their numbers, all of them; null where one says nothing. */
export function proposedAnswers(pulls: readonly Laid[]): Answers | null {
  if (pulls.length === 0 || pulls.some((p) => p.state === null)) return null;
  if (pulls.every((p) => p.state!.kind === 'uncorrected')) return { ...NO_ANSWERS, state: 'uncorrected' };
  return pulls.every((p) => p.state!.kind === 'uncorrected' || (p.state!.factor ?? p.state!.computed) !== null)
    ? { ...NO_ANSWERS, state: 'as-stated' }
    : null;
}

/** The state of a pull's numbers under what was said of its files; null where that leaves it open. */
export function numberStateOf(
  row: DayRow,
  pulls: readonly Laid[],
  answers: Answers | null,
): Schemas['NumberStateDto'] | null {
  return answers && numberStateUnder(answers, pulls[row.place]!.state, airOf(row, pulls));
}

/** The weather of a pull; null where some of it is not known. */
export function airOf(row: DayRow, pulls: readonly Laid[]): Air | null {
  const [airC, pressureHpa, relativeHumidity] = (['airC', 'pressureHpa', 'relativeHumidity'] as const).map((key) =>
    valueOf(row, pulls, key),
  );
  return airC == null || pressureHpa == null || relativeHumidity == null
    ? null
    : { airC, pressureHpa, relativeHumidity };
}

/** A thing that keeps the day from being imported. */
export type Obstacle =
  | { readonly code: 'nothing' }
  | { readonly code: 'numbers'; readonly shape: number }
  | { readonly code: 'asked' | 'reason'; readonly place: number }
  | { readonly code: 'one-time'; readonly places: readonly [number, number] };

export function obstaclesOf(
  day: Day,
  pulls: readonly Laid[],
  shapeOf: (place: number) => number,
  answers: readonly (Answers | null)[],
): Obstacle[] {
  const found: Obstacle[] = [];
  const taken = day.filter((r) => r.status !== 'left-out');
  if (taken.length === 0) found.push({ code: 'nothing' });
  for (const row of day) if (row.asked) found.push({ code: 'asked', place: row.place });
  const open = new Set(
    taken
      .filter((r) => numberStateOf(r, pulls, answers[shapeOf(r.place)] ?? null) === null)
      .map((r) => shapeOf(r.place)),
  );
  for (const shape of open) found.push({ code: 'numbers', shape });
  taken.forEach((row, i) => {
    if (row.status === 'set-aside' && row.reason.trim() === '') found.push({ code: 'reason', place: row.place });
    const before = taken[i - 1];
    if (before && row.startedMs !== null && before.startedMs === row.startedMs)
      found.push({ code: 'one-time', places: [before.place, row.place] });
  });
  return found;
}

/** The pulls of the import, in the order of the day. */
export function importedPulls(
  day: Day,
  pulls: readonly Laid[],
  shapeOf: (place: number) => number,
  answers: readonly (Answers | null)[],
): Schemas['ImportedPull'][] {
  return roundsOf(day).flatMap((round, r) =>
    round.map((row): Schemas['ImportedPull'] => {
      const { fileId, index, gear, averagingRpm } = pulls[row.place]!;
      const answer = answers[shapeOf(row.place)] ?? null;
      return {
        ...{ fileId, index, round: r + 1, setupId: row.setupId, gear },
        status: row.status as PullStatus,
        reason: row.status === 'set-aside' ? row.reason.trim() : null,
        startedAt: row.startedMs === null ? null : new Date(row.startedMs).toISOString(),
        timeFrom: row.startedMs === null ? null : (row.timeFrom as 'typed' | null),
        conditions: Object.fromEntries(
          CONDITIONS.map((key) => [key, valueOf(row, pulls, key)]),
        ) as Schemas['PullConditions'],
        numberState: numberStateOf(row, pulls, answer)!,
        averagingRpm: answer?.averagingRpm ?? averagingRpm,
      };
    }),
  );
}
