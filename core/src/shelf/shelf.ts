import { factsNamed } from '../measures/measureFacts.ts';
import type { Verdict } from '../verdict/outcome.ts';
import { truePercent } from '../verdict/percent.ts';
import { nextStudy, spreadScale } from './nextStudy.ts';
import { randomEffects, type RandomEffects, type Study } from './randomEffects.ts';

/** One job that ran a part, as far as a shelf needs it. */
export interface ShelfStudy {
  /** The car: jobs on one car are one study. */
  readonly car: string;
  readonly model: string | null;
  readonly verdict: Verdict;
  /** Log-percent, or the measure's unit. */
  readonly estimate: number | null;
  readonly standardError: number | null;
  /** What the car was besides, by factor: "aspiration", "fuel", "other parts"; null where nobody knows. */
  readonly factors: Readonly<Record<string, string | null>>;
}

/** An interval in true per cent, or in the measure's own unit. */
export interface ShownRange {
  readonly estimate: number;
  readonly low: number;
  readonly high: number;
}

/** Some cars together. */
export interface ShelfGroup {
  readonly cars: number;
  /** Null without an interval: under three cars. */
  readonly average: ShownRange | null;
  readonly estimate: number;
  /** What the next car may see; null under three cars. */
  readonly next: { readonly low: number; readonly high: number } | null;
  /** How much the effect differs between cars: the standard deviation, and the share of the spread that scatter does not explain. */
  readonly spread: number;
  readonly inconsistency: number;
}

/** What a shelf knows of a part under one measure. */
export interface ShelfAnswer {
  /** Null where no job has an estimate. */
  readonly all: ShelfGroup | null;
  /** Share of each job in the average, in the order of the jobs; 0 where it is left out. */
  readonly weights: readonly number[];
  readonly models: readonly (ShelfGroup & { readonly model: string })[];
  /** Factors of which each side has three cars; always exploratory. */
  readonly factors: readonly {
    readonly factor: string;
    readonly sides: readonly (ShelfGroup & { readonly value: string })[];
  }[];
}

const FEWEST_A_SIDE = 3;

/** Whether a job takes part in averages: its estimate is one, and before and after were measured alike. */
const counts = (s: ShelfStudy): boolean =>
  s.verdict !== 'not-comparable' && s.estimate !== null && s.standardError !== null && s.standardError > 0;

/**
 * What several jobs say of a part together. Jobs on one car are pooled to one study first (weights 1/SE²), so that a car that came
 * twice does not speak for two cars.
 * @example shelfAnswer([], 'windowMeanPower').all // null
 */
export function shelfAnswer(studies: readonly ShelfStudy[], measure: string): ShelfAnswer {
  const facts = factsNamed(measure);
  const shown = facts.scale === 'log' ? truePercent : (value: number) => value;
  const scale = spreadScale(facts.factor);
  const used = studies.filter(counts);
  const groupOf = (own: readonly ShelfStudy[]): ShelfGroup | null => (own.length > 0 ? group(own, shown, scale) : null);
  const models = [...new Set(used.flatMap((s) => s.model ?? []))].sort();
  const names = [...new Set(studies.flatMap((s) => Object.keys(s.factors)))];
  return {
    all: groupOf(used),
    weights: weightsOf(studies),
    models: models.map((model) => ({ model, ...groupOf(used.filter((s) => s.model === model))! })),
    factors: names.flatMap((factor) => {
      const values = [...new Set(used.flatMap((s) => s.factors[factor] ?? []))].sort();
      const sides = values.flatMap((value) => {
        const own = used.filter((s) => s.factors[factor] === value);
        return carsOf(own).length >= FEWEST_A_SIDE ? [{ value, ...groupOf(own)! }] : [];
      });
      return sides.length > 1 ? [{ factor, sides }] : [];
    }),
  };
}

function group(own: readonly ShelfStudy[], shown: (value: number) => number, scale: number): ShelfGroup {
  const cars = carsOf(own);
  const pooled: RandomEffects = randomEffects(cars);
  const next = nextStudy(cars, scale);
  return {
    cars: cars.length,
    estimate: shown(pooled.mean),
    average:
      pooled.low === null ? null : { estimate: shown(pooled.mean), low: shown(pooled.low), high: shown(pooled.high!) },
    next: next && { low: shown(next.low), high: shown(next.high) },
    spread: Math.sqrt(pooled.betweenVariance),
    inconsistency: pooled.inconsistency,
  };
}

/** A study a car. */
function carsOf(own: readonly ShelfStudy[]): (Study & { readonly car: string })[] {
  const names = [...new Set(own.map((s) => s.car))];
  return names.map((car) => {
    const of = own.filter((s) => s.car === car);
    const sum = of.reduce((a, s) => a + 1 / s.standardError! ** 2, 0);
    return {
      car,
      estimate: of.reduce((a, s) => a + s.estimate! / s.standardError! ** 2, 0) / sum,
      variance: 1 / sum,
    };
  });
}

/** A car's weight is shared by its jobs as each of them weighs in it. */
function weightsOf(studies: readonly ShelfStudy[]): number[] {
  const used = studies.filter(counts);
  if (used.length === 0) return studies.map(() => 0);
  const cars = carsOf(used);
  const { weights } = randomEffects(cars);
  return studies.map((s) => {
    if (!counts(s)) return 0;
    const at = cars.findIndex((c) => c.car === s.car);
    return weights[at]! * (cars[at]!.variance / s.standardError! ** 2);
  });
}
