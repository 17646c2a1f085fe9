import { isUnitName, quantityOf, type Judgement, type SealedVerdict } from '@prandel/core';
import { gainInterval, interval, USUAL_UNITS, type ShownUnits } from '../figures.ts';

/** The verdicts of a judgement with their figures rounded as they are printed. */
export function sealedVerdicts({ verdicts }: Pick<Judgement, 'verdicts'>, units: ShownUnits): SealedVerdict[] {
  return verdicts.map(({ candidate, baseline, measure, verdict, gain }) => {
    const own = gain && gainInterval(gain, units);
    const { percent = null, lowPercent = null, highPercent = null } = gain ?? {};
    const inPercent =
      percent !== null && lowPercent !== null && highPercent !== null
        ? interval(percent, lowPercent, highPercent)
        : null;
    return {
      ...{ candidate, baseline, measure, verdict },
      estimate: own?.estimate ?? null,
      low: own?.low ?? null,
      high: own?.high ?? null,
      unit: own?.unit ?? null,
      percent: inPercent?.estimate ?? null,
      lowPercent: inPercent?.low ?? null,
      highPercent: inPercent?.high ?? null,
    };
  });
}

/** The units in which sealed figures were printed, so that they can be made again in the same ones. */
export function unitsOfSealed(verdicts: readonly SealedVerdict[]): ShownUnits {
  const used = verdicts.flatMap(({ unit }) =>
    unit !== null && isUnitName(unit) && quantityOf(unit) in USUAL_UNITS ? [[quantityOf(unit), unit]] : [],
  );
  return { ...USUAL_UNITS, ...(Object.fromEntries(used) as Partial<ShownUnits>) };
}
