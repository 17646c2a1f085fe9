import { factsNamed, type ShelfGroup } from '@prandel/core';
import { plain, signed, withUnit } from '../figures.ts';

/** The unit in which a shelf's figures are read: per cent, or the measure's own. */
export const shelfUnit = (measure: string): string =>
  factsNamed(measure).scale === 'log' ? '%' : factsNamed(measure).unit;

const cars = (n: number) => (n === 1 ? 'one car' : n === 2 ? 'two cars' : n === 3 ? 'three cars' : `${n} cars`);

/** "on three cars: 0.4 to 2.9 % expected"; under three cars what there is, and that it says nothing of the next one. */
export function expectedWords({
  cars: n,
  estimate,
  low,
  high,
}: {
  readonly cars: number;
  readonly estimate: number | null;
  readonly low: number | null;
  readonly high: number | null;
}): string {
  if (n === 0 || estimate === null) return '';
  if (low === null || high === null)
    return `on ${cars(n)}: ${signed(estimate)} %; too few to say what this one will see`;
  return `on ${cars(n)}: ${signed(low)} to ${signed(high)} % expected`;
}

/** What a maker promises against what was found on cars; empty without a promise or a result. */
export function promiseWords(
  promised: number | null,
  group: Pick<ShelfGroup, 'estimate' | 'average' | 'cars'> | null,
): string {
  if (promised === null || group === null) return '';
  const { average, estimate } = group;
  const found = average
    ? `found ${signed(average.estimate)} % (${signed(average.low)} to ${signed(average.high)})`
    : `found ${signed(estimate)} % on ${cars(group.cars)}`;
  const kept = average
    ? promised > average.high
      ? 'less than promised'
      : promised < average.low
        ? 'more than promised'
        : 'as promised, as far as can be told'
    : 'too few cars to hold it against the promise';
  return `Promised ${signed(promised)} %, ${found}: ${kept}.`;
}

/** How much an effect differs between cars, in words. */
export function spreadWords({ spread, inconsistency, cars: n }: ShelfGroup, measure: string): string {
  if (n < 3) return '';
  const unit = shelfUnit(measure);
  const digits = unit === '%' ? 1 : 2;
  if (spread < 0.05) return 'No difference between cars beyond what the jobs scatter by themselves.';
  return `Differs between cars by about ${withUnit(plain(spread, digits), unit)}; ${Math.round(100 * inconsistency)} % of the spread is more than the jobs’ own scatter.`;
}
