import type { Job } from '../job/job.ts';
import type { AbortLimit } from './jobDay.ts';
import { tolerance } from './houseMethod.ts';

/** A limit that is armed, and who set it. */
export interface ArmedLimit extends AbortLimit {
  readonly from: 'job' | 'model card' | 'house method';
}

const CHARGE_AIR = 'charge_c';

/**
 * What stops a pull in this job: its own limits, and on a boosted car the charge air of the model card, else of the house
 * method. The method's values hold after the intercooler; ahead of it 160 °C is ordinary, so a card that puts the sensor
 * there must bring its own. Common practice, no source.
 * @example armedLimits(newJob('1', 'x')).length // 0
 */
export function armedLimits(job: Pick<Job, 'day' | 'vehicle' | 'method'>): ArmedLimit[] {
  const own: ArmedLimit[] = (job.day?.abortLimits ?? []).map((limit) => ({ ...limit, from: 'job' }));
  const boosted = job.vehicle.aspiration === 'turbo' || job.vehicle.aspiration === 'supercharged';
  if (!job.day || !boosted || own.some((l) => l.channel === CHARGE_AIR && l.side === 'above')) return own;
  const card = job.day.modelCard.chargeAir;
  if (typeof card?.stopC === 'number')
    return [
      ...own,
      { channel: CHARGE_AIR, side: 'above', warn: card.warnC ?? null, stop: card.stopC, from: 'model card' },
    ];
  if (card?.sensor === 'before-cooler') return own;
  const [warn, stop] = [tolerance(job.method, 'chargeAirWarnC'), tolerance(job.method, 'chargeAirStopC')];
  return [...own, { channel: CHARGE_AIR, side: 'above', warn, stop, from: 'house method' }];
}

export interface LimitCrossed {
  readonly limit: AbortLimit;
  readonly value: number;
  readonly level: 'warn' | 'stop';
}

/**
 * The limits that the latest readings cross, stops first. A channel without a reading crosses nothing.
 * @example limitsCrossed([{ channel: 'coolant_c', warn: 105, stop: 115, side: 'above' }], { coolant_c: 118 })[0].level // 'stop'
 */
export function limitsCrossed(
  limits: readonly AbortLimit[],
  latest: Readonly<Record<string, number | undefined>>,
): LimitCrossed[] {
  const crossed: LimitCrossed[] = [];
  for (const limit of limits) {
    const value = latest[limit.channel];
    if (value === undefined || !Number.isFinite(value)) continue;
    const beyond = (edge: number) => (limit.side === 'above' ? value >= edge : value <= edge);
    if (beyond(limit.stop)) crossed.push({ limit, value, level: 'stop' });
    else if (limit.warn !== null && beyond(limit.warn)) crossed.push({ limit, value, level: 'warn' });
  }
  return crossed.sort((a, b) => (a.level === b.level ? 0 : a.level === 'stop' ? -1 : 1));
}
