import { fadeOf, measureFacts } from '@prandel/core';
import { answerOf, fitContrast, prepare, usualPrior } from '@prandel/core/engine';
import { Random, worldDay, WORLDS, type World } from '@prandel/simulator';

/** What days of one measure gave: shares of the days, half-widths in the measure's own size (°C, log-percent, % a pull). */
export interface MeasureCalibrated {
  readonly falseClaims: number;
  readonly covers: number;
  readonly halfWidth: number;
  /** Days of a difference of `size` that is called one. */
  readonly finds: number;
  readonly size: number;
}

const SEED = 20261127;

/** Interval of a simulated day, before it is moved by what the part does. */
type Read = (random: Random) => readonly [low: number, high: number];

/** Reads so many days without a difference; the same day with one is the same interval moved. */
function tally(read: Read, days: number, size: number): MeasureCalibrated {
  const random = new Random(SEED);
  let [falseClaims, halfWidth, finds] = [0, 0, 0];
  for (let day = 0; day < days; day += 1) {
    const [low, high] = read(random);
    if (low > 0 || high < 0) falseClaims += 1;
    if (low + size > 0) finds += 1;
    halfWidth += (high - low) / 2;
  }
  const share = (count: number) => count / days;
  return {
    ...{ falseClaims: share(falseClaims), covers: 1 - share(falseClaims), halfWidth: halfWidth / days },
    ...{ finds: share(finds), size },
  };
}

/**
 * A measure that the engine judges on y/k: its noise is that of a world, k times as large, and `apart` times what the priors expect.
 * Heat is left in: such a measure is not adjusted for it.
 */
function engineMeasure(world: World, plan: string, factor: number, apart: number): Read {
  return (random) => {
    const { pulls, y } = worldDay({ ...world, heat: false }, plan, [0], random);
    const values = y.map((v) => apart * (v - 500));
    const prepared = prepare(pulls, { meantToChange: true });
    const { low, high } = answerOf(prepared, fitContrast(prepared, values, [-1, 1], usualPrior()));
    return [factor * low, factor * high];
  };
}

const PASSES_EACH = 4;
/** Wind that differs from one way to the other, and how it changes over an hour, log-percent. */
const ONE_WAY = 4;
const GUSTS = 0.8;

/** Passes out and back, a wind that comes and goes, and a change of the car in between. */
function roadMeasure(scatter: number, factor: number): Read {
  return (random) => {
    const passes = [0, 1].flatMap((setup) =>
      Array.from({ length: 2 * PASSES_EACH }, (_, i) => ({
        ...{ setup, round: setup, startC: null, block: i % 2 },
        hours: setup * 1.2 + i / 12,
      })),
    );
    let wind = random.normal(ONE_WAY);
    let before = 0;
    const course = random.normal(0.3);
    const y = passes.map(({ hours, block }) => {
      wind += random.normal(GUSTS * Math.sqrt(hours - before));
      before = hours;
      return (block === 0 ? wind : -wind) + course * hours + random.normal(scatter);
    });
    const prepared = prepare(passes, { meantToChange: true });
    const own = y.map((v) => v / factor);
    const { low, high } = answerOf(prepared, fitContrast(prepared, own, [-1, 1], usualPrior()));
    return [factor * low, factor * high];
  };
}

/** Pulls back to back: every round fades by its own slope and a little more at first than at last. */
function fadeMeasure(scatter: number, pulls: number): Read {
  return (random) => {
    const round = () => {
      const level = random.normal(0.3);
      const x = Array.from({ length: pulls }, (_, i) => i + 1);
      const y = x.map((p) => level - 0.5 * p + 0.9 * Math.exp(-p) + random.normal(scatter));
      return { x, y };
    };
    const { low, high } = fadeOf([round()], [round()], 0.95)!;
    return [low, high];
  };
}

interface Row {
  readonly name: string;
  readonly read: Read;
  readonly size: number;
}

const charge = measureFacts({ id: 'peak', channel: 'charge_c' });
const answer = measureFacts({ id: 'rollOnTime' });
const road = measureFacts({ id: 'roadTime', fromKmH: 80, toKmH: 120 });

/** Each measure on days that are calmer and wilder than its priors. */
const ROWS: readonly Row[] = [
  ...([0.6, 1, 1.6] as const).flatMap((apart): Row[] => [
    {
      name: `temperature (°C), A3 B3 A2, noise ${apart} × what is expected`,
      read: engineMeasure(WORLDS.usual, 'A3 B3 A2', charge.factor, apart),
      size: 3,
    },
    {
      name: `answer to the pedal (%), A4 B4 A3, noise ${apart} × what is expected`,
      read: engineMeasure(WORLDS.usual, 'A4 B4 A3', answer.factor, apart),
      size: 5,
    },
  ]),
  ...([0.6, 1.2] as const).map((scatter): Row => ({
    name: `road (%), ${PASSES_EACH} passes out and ${PASSES_EACH} back of A, then of B, scatter ${scatter} %`,
    read: roadMeasure(scatter, road.factor),
    size: 3,
  })),
  ...([0.25, 0.5, 0.9] as const).map((scatter): Row => ({
    name: `fade (% a pull), one round of six a side, scatter ${scatter} %`,
    read: fadeMeasure(scatter, 6),
    size: 0.5,
  })),
];

/** The rows of `./prandel bench`, worked out. */
export function measureCalibrations(days: number): readonly (MeasureCalibrated & { readonly name: string })[] {
  return ROWS.map(({ name, read, size }) => ({ name, ...tally(read, days, size) }));
}

/** False claims, coverage and detection of every kind of measure. */
export function printMeasureCalibration(days: number, print: (line: string) => void): void {
  print(
    `calibration per measure, ${days} days a row: false claims %, covers %, finds a difference of that size %, half-width`,
  );
  for (const { name, falseClaims, covers, finds, size, halfWidth } of measureCalibrations(days))
    print(
      `${name}: ${(100 * falseClaims).toFixed(1)}, ${(100 * covers).toFixed(1)}, ${(100 * finds).toFixed(0)} (${size}), ±${halfWidth.toFixed(2)}`,
    );
}
