import { pauseFor, settledStartC, type PooledHeat } from '@prandel/core';
import { plain, signed, type ShownUnits } from './figures.ts';

const DEGREE = (units: ShownUnits) => (units.temperature === '°F' ? 1 / 1.8 : 1);

/** What a car loses per degree of start temperature, by its jobs. */
export function heatWords(
  { percentPerC, low, high, jobs }: PooledHeat,
  units: ShownUnits,
  subject = 'This car',
): string {
  const per = DEGREE(units);
  const from = `95 % between ${signed(-high * per, 2)} and ${signed(-low * per, 2)}`;
  return `${subject} by ${jobs === 1 ? 'one job' : `${jobs} jobs`}: ${signed(-percentPerC * per, 2)} % of mean power per ${units.temperature} of start temperature above the bay’s air, ${from}. It explains and helps to plan pauses; no verdict uses it.`;
}

/** What a pause between pulls does to a car of which that is known. @param matters size that would matter, per cent */
export function pauseWords(heat: PooledHeat, pauseMin: number, boosted: boolean, matters: number): string {
  const cost = (minutes: number) => heat.percentPerC * settledStartC(minutes, boosted);
  const now = `With pulls ${plain(pauseMin, pauseMin % 1 === 0 ? 0 : 1)} min apart its starts settle where heat costs about ${plain(Math.max(0, cost(pauseMin)), 1)} %`;
  // A third of what would matter is well inside what the interval allows for.
  const pause = pauseFor(heat.percentPerC, matters / 3, boosted);
  if (heat.percentPerC <= 0) return 'By its jobs heat does not cost this car power: a shorter pause does no harm.';
  if (pause === null) return `${now}; no pause up to half an hour keeps that under a third of what would matter.`;
  return pause <= pauseMin
    ? `${now}: the pause is long enough.`
    : `${now}; ${pause} min keep that under a third of what would matter.`;
}
