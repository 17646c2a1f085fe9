import { channelValues, type Channel, type LaidBy, type Pull } from '../job/job.ts';
import { crossCorrelation, highestPlaces } from './crossCorrelation.ts';
import { coarser, evenSamples, valueAt, type EvenSamples } from './evenSamples.ts';

const { abs, max, min, round, sqrt } = Math;

/** A pull that a logger's record covers, and where its second 0 lies in the logger's clock. */
export interface CoveredPull {
  readonly id: string;
  readonly atS: number;
  readonly correlation: number;
}

/** Where a logger's record lies beside the pulls of a job. */
export interface Laid {
  readonly laidBy: LaidBy;
  /** How much faster the logger's clock runs than the job's, ppm; NaN where the pulls have no times. */
  readonly ratePpm: number;
  /** Root mean square of the speed that is left over, and the range of that speed in the pulls. */
  readonly residual: number;
  readonly range: number;
  readonly correlation: number;
  readonly pulls: readonly CoveredPull[];
}

/** Why a logger's record cannot be laid beside the pulls. */
export type NotLaid =
  | { readonly code: 'no-time' }
  | { readonly code: 'too-long'; readonly hours: number }
  | { readonly code: 'no-common-speed' }
  | { readonly code: 'no-match'; readonly correlation: number | null }
  | { readonly code: 'ambiguous'; readonly places: number }
  | { readonly code: 'residual'; readonly residual: number; readonly range: number; readonly laidBy: LaidBy };

/** Codes of reasons, for those who name them. */
export const NOT_LAID = [
  'no-time',
  'too-long',
  'no-common-speed',
  'no-match',
  'ambiguous',
  'residual',
] as const satisfies readonly NotLaid['code'][];

/** What both are laid by, the best first, and the channel that tells it. */
const SPEEDS: readonly (readonly [by: LaidBy, channel: string])[] = [
  ['engine', 'engine_rpm'],
  ['roller', 'roller_rad_s'],
  ['road', 'speed_km_h'],
  ['throttle', 'throttle_fraction'],
];

const STEP_S = 0.05;
/** A record of a day ends before this; a longer one has another unit of time. Its even samples have to fit into memory. */
const LONGEST_RECORD_S = 48 * 3600;
const LONGEST_PULL_S = 3600;
/** The search goes over means of five samples. */
const COARSE = 5;
/** Under this correlation, or over this share of the range, nothing is laid. */
const LEAST_CORRELATION = 0.98;
const MOST_RESIDUAL = 0.02;
/** Places that are looked at again for each pull. */
const LIKELY = 0.9;
const LOOKS_LIKE = 0.97;
const MOST_PLACES = 60;
/** Clocks run apart by at most so much. */
const CLOCK_SHARE = 0.003;
const CLOCK_SLACK_S = 1;
/** Other places whose correlation is as good as this leave it open which one it is. */
const AS_GOOD = 0.001;
const ELSEWHERE_S = 2;

/** A pull with what it is laid by. */
interface Laying {
  readonly id: string;
  /** Second 0 in the job's clock; null without a time. */
  readonly startS: number | null;
  readonly timeS: Float64Array;
  readonly speed: EvenSamples;
}

/**
 * Lays the record of a logger beside the pulls of a job by their speeds (docs/method.md, Other loggers): normalised cross-correlation of
 * every pull over all offsets, the assignment that keeps the pulls in their order and the clocks within 0.3 %, then offset and rate by
 * Gauss–Newton on the residual of all pulls together.
 * @param pulls in the order in which they were made
 * @param record channels of the logger with its own `time_s`
 * @example layLogger([], []).code // 'no-time'
 */
export function layLogger(pulls: readonly Pull[], record: readonly Channel[]): Laid | NotLaid {
  const time = record.find((c) => c.name === 'time_s')?.values;
  if (!time) return { code: 'no-time' };
  const lastedS = spanOf(time);
  if (lastedS > LONGEST_RECORD_S) return { code: 'too-long', hours: lastedS / 3600 };
  const common = commonSpeed(pulls, record);
  if (!common) return { code: 'no-common-speed' };
  const { laidBy, scaled } = common;
  const logger = evenSamples(time, common.values, STEP_S);
  const laying = pulls.flatMap((pull): Laying[] => {
    const own = channelValues(pull, 'time_s');
    const speed = channelValues(pull, common.channel);
    if (!own || !speed || own.length < 5 || spanOf(own) > LONGEST_PULL_S) return [];
    const startS = pull.startedAt === null ? null : Date.parse(pull.startedAt) / 1000;
    return [{ id: pull.id, startS, timeS: own, speed: evenSamples(own, speed, STEP_S) }];
  });
  const timed = laying.length > 0 && laying.every((p) => p.startS !== null);
  const places = laying.map((p) => likelyPlaces(p.speed, logger));
  const { chosen, asGood } = inOrder(laying, places, timed);
  if (chosen.length === 0) return { code: 'no-match', correlation: null };
  const open = timed ? asGood : untimedPlaces(laying, places, chosen);
  if (open > 1) return { code: 'ambiguous', places: open };
  const covered = chosen.map(({ pull, place }) => ({ ...laying[pull]!, ...place }));
  const fitted = timed ? together(covered, logger, scaled) : apart(covered, logger, scaled);
  const { residual, range, correlation } = leftOver(fitted.pulls, logger, scaled, (fitted.ratePpm || 0) / 1e6);
  if (correlation < LEAST_CORRELATION) return { code: 'no-match', correlation };
  if (residual > MOST_RESIDUAL * range) return { code: 'residual', residual, range, laidBy };
  return {
    ...{ laidBy, residual, range, correlation, ratePpm: fitted.ratePpm },
    pulls: fitted.pulls.map(({ id, atS, correlation: own }) => ({ id, atS, correlation: own })),
  };
}

/** Seconds from the first to the last time that is known. */
function spanOf(timeS: Float64Array): number {
  let [low, high] = [Infinity, -Infinity];
  for (const t of timeS) {
    if (t < low) low = t;
    if (t > high) high = t;
  }
  return max(0, high - low);
}

/** The best speed that both have; a speed of another kind is laid up to a factor. */
function commonSpeed(pulls: readonly Pull[], record: readonly Channel[]) {
  const inRecord = (channel: string) => record.find((c) => c.name === channel)?.values;
  const inPulls = (channel: string) => pulls.some((p) => channelValues(p, channel) && channelValues(p, 'time_s'));
  for (const [laidBy, channel] of SPEEDS.filter(([by]) => by !== 'throttle')) {
    const values = inRecord(channel);
    if (values && inPulls(channel)) return { laidBy, channel, values, scaled: false };
  }
  const speeds = SPEEDS.filter(([by]) => by !== 'throttle');
  const own = speeds.find(([, channel]) => inPulls(channel));
  const other = speeds.find(([, channel]) => inRecord(channel));
  if (own && other) return { laidBy: own[0], channel: own[1], values: inRecord(other[1])!, scaled: true };
  const throttle = inRecord('throttle_fraction');
  return throttle && inPulls('throttle_fraction')
    ? { laidBy: 'throttle' as const, channel: 'throttle_fraction', values: throttle, scaled: false }
    : null;
}

interface Place {
  /** Second 0 of the pull in the logger's clock. */
  readonly atS: number;
  readonly correlation: number;
}

/** Places of the record that look like the pull: searched coarsely, then looked at sample by sample. */
function likelyPlaces(speed: EvenSamples, logger: EvenSamples): Place[] {
  const rough = coarser(speed, COARSE);
  const among = coarser(logger, COARSE);
  const found = highestPlaces(
    crossCorrelation(rough.values, among.values),
    LIKELY,
    MOST_PLACES,
    round(1 / rough.stepS),
  );
  const fine = found.map((i) => {
    const from = max(0, i * COARSE - 2 * COARSE);
    const stretch = logger.values.subarray(from, i * COARSE + 2 * COARSE + speed.values.length);
    const own = crossCorrelation(speed.values, stretch);
    let best = 0;
    for (let k = 1; k < own.length; k += 1) if (own[k]! > own[best]!) best = k;
    return { atS: logger.fromS + (from + best) * STEP_S - speed.fromS, correlation: own[best] ?? -1 };
  });
  return fine.filter(({ correlation }) => correlation >= LOOKS_LIKE);
}

interface Chosen {
  readonly pull: number;
  readonly place: Place;
}

/** The assignment with the highest sum of correlations that keeps the order, and the distances of the clocks where they are known. */
function inOrder(pulls: readonly Laying[], places: readonly (readonly Place[])[], timed: boolean) {
  const states: { pull: number; place: Place; score: number; before: number }[] = [];
  const first: number[] = [];
  for (let i = 0; i < pulls.length; i += 1) {
    first.push(states.length);
    for (const place of places[i]!) {
      let [score, before] = [0, -1];
      for (let s = 0; s < first[i]!; s += 1) {
        const state = states[s]!;
        if (state.score > score && follows(pulls[state.pull]!, state.place, pulls[i]!, place, timed))
          [score, before] = [state.score, s];
      }
      // A pull is worth placing where it fits better than anything fits anywhere.
      states.push({ pull: i, place, score: score + place.correlation - LIKELY, before });
    }
  }
  const best = states.reduce((top, state, i) => (top < 0 || state.score > states[top]!.score ? i : top), -1);
  const chosen: Chosen[] = [];
  for (let at = best; at >= 0; at = states[at]!.before)
    chosen.unshift({ pull: states[at]!.pull, place: states[at]!.place });
  // Other offsets of the clocks that fit as well, each counted once.
  const offsets: number[] = [];
  for (const { pull, place, score } of timed ? states : []) {
    const offset = place.atS - pulls[pull]!.startS!;
    const good = score >= states[best]!.score - AS_GOOD * chosen.length;
    if (good && offsets.every((o) => abs(o - offset) > ELSEWHERE_S + CLOCK_SHARE * DAY_S)) offsets.push(offset);
  }
  return { chosen, asGood: offsets.length };
}

/** Offsets are told apart over a day of two clocks. */
const DAY_S = 3600;

/**
 * Without times only the number of pulls tells which is which: every pull of the job has to be in the record, and no other.
 * @returns 1 where it is clear, else how many stretches of the record look like one of the pulls
 */
function untimedPlaces(
  pulls: readonly Laying[],
  places: readonly (readonly Place[])[],
  chosen: readonly Chosen[],
): number {
  const looks: number[] = [];
  for (const { atS, correlation } of places.flat())
    if (correlation >= LEAST_CORRELATION && looks.every((at) => abs(at - atS) > ELSEWHERE_S)) looks.push(atS);
  return chosen.length === pulls.length && looks.length <= pulls.length ? 1 : max(2, looks.length);
}

function follows(before: Laying, a: Place, after: Laying, b: Place, timed: boolean): boolean {
  const apartS = b.atS - a.atS;
  if (!timed) return apartS > before.timeS.at(-1)! - before.timeS[0]!;
  const own = after.startS! - before.startS!;
  return abs(apartS - own) <= CLOCK_SHARE * own + CLOCK_SLACK_S;
}

type Covered = Laying & Place;

const MOST_ITERATIONS = 30;
const SETTLED_S = 1e-6;
const FARTHEST_S = 10;

/** Offset and rate of all pulls together, Gauss–Newton on the residual of speed. */
function together(covered: readonly Covered[], logger: EvenSamples, scaled: boolean) {
  const origin = covered[0]!.startS!;
  let [offset, rate] = [covered[0]!.atS, 0];
  const last = covered.at(-1)!;
  if (covered.length > 1) rate = (last.atS - offset) / (last.startS! - origin) - 1;
  const at = (p: Covered) => offset + (1 + rate) * (p.startS! - origin);
  for (let n = 0; n < MOST_ITERATIONS; n += 1) {
    const factor = scaled
      ? factorOf(
          covered.map((p) => ({ ...p, atS: at(p) })),
          logger,
          rate,
        )
      : 1;
    let [aa, ar, rr, ae, re] = [0, 0, 0, 0, 0];
    for (const p of covered)
      eachSample({ ...p, atS: at(p) }, logger, rate, (own, theirs, slope, t) => {
        const [d, e] = [factor * slope, own - factor * theirs];
        const since = p.startS! - origin + t;
        aa += d * d;
        ar += d * d * since;
        rr += d * d * since * since;
        ae += d * e;
        re += d * e * since;
      });
    const determinant = aa * rr - ar * ar;
    // A single pull is too short to tell a rate.
    const tells = covered.length > 1 && determinant > 1e-9 * aa * rr;
    const step = tells ? (rr * ae - ar * re) / determinant : ae / aa;
    const turn = tells ? (aa * re - ar * ae) / determinant : 0;
    // A pull that nothing holds runs away: it stays where it looked alike.
    if (!Number.isFinite(step) || abs(offset + step - covered[0]!.atS) > FARTHEST_S) break;
    offset += step;
    rate = max(-CLOCK_SHARE, min(CLOCK_SHARE, rate + turn));
    if (abs(step) < SETTLED_S && abs(turn) < 1e-9) break;
  }
  return { ratePpm: rate * 1e6, pulls: covered.map((p) => withCorrelation({ ...p, atS: at(p) }, logger, rate)) };
}

/** Pulls without times: each has an offset of its own. */
function apart(covered: readonly Covered[], logger: EvenSamples, scaled: boolean) {
  const pulls = covered.map((p) => {
    const alone = together([{ ...p, startS: 0 }], logger, scaled);
    return { ...p, ...alone.pulls[0]!, startS: null };
  });
  return { ratePpm: NaN, pulls };
}

/** Every sample of a pull beside the logger's at that time, with the slope of the logger there. */
function eachSample(
  { atS, speed }: Pick<Covered, 'atS' | 'speed'>,
  logger: EvenSamples,
  rate: number,
  use: (own: number, theirs: number, slope: number, t: number) => void,
): void {
  for (let i = 0; i < speed.values.length; i += 1) {
    const own = speed.values[i]!;
    const t = speed.fromS + i * STEP_S;
    const at = atS + (1 + rate) * t;
    const theirs = valueAt(logger, at);
    const slope = (valueAt(logger, at + STEP_S) - valueAt(logger, at - STEP_S)) / (2 * STEP_S);
    if (Number.isFinite(own) && Number.isFinite(theirs) && Number.isFinite(slope)) use(own, theirs, slope, t);
  }
}

/** Least squares of own = factor · theirs. */
function factorOf(covered: readonly Covered[], logger: EvenSamples, rate: number): number {
  let [both, squares] = [0, 0];
  for (const p of covered)
    eachSample(p, logger, rate, (own, theirs) => {
      both += own * theirs;
      squares += theirs * theirs;
    });
  return both / squares;
}

function withCorrelation<P extends Covered>(pull: P, logger: EvenSamples, rate: number): P {
  return { ...pull, correlation: leftOver([pull], logger, false, rate).correlation };
}

/** What the speeds leave over together, their range in the pulls, and their correlation. */
function leftOver(covered: readonly Covered[], logger: EvenSamples, scaled: boolean, rate: number) {
  const factor = scaled ? factorOf(covered, logger, rate) : 1;
  let [n, squares, low, high] = [0, 0, Infinity, -Infinity];
  let [a, b, aa, bb, ab] = [0, 0, 0, 0, 0];
  for (const p of covered)
    eachSample(p, logger, rate, (own, theirs) => {
      n += 1;
      squares += (own - factor * theirs) ** 2;
      low = min(low, own);
      high = max(high, own);
      a += own;
      b += theirs;
      aa += own * own;
      bb += theirs * theirs;
      ab += own * theirs;
    });
  const correlation = (ab - (a * b) / n) / sqrt((aa - (a * a) / n) * (bb - (b * b) / n));
  return {
    residual: sqrt(squares / n),
    range: high - low,
    correlation: Number.isFinite(correlation) ? correlation : 0,
  };
}
