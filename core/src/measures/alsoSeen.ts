import { isTemperature } from '../bay/channelWords.ts';
import type { Job } from '../job/job.ts';
import { studentT } from '../statistics/distributions.ts';
import { mean } from '../statistics/summary.ts';
import type { JudgedPull, Judgement } from '../verdict/outcome.ts';
import { sideOfSetup } from '../verdict/selection.ts';
import { channelMean, type ChannelReading } from './channelReadings.ts';

/** What else was logged of a pair of setups, with a pointwise interval and no verdict. */
export interface AlsoSeen {
  readonly channel: string;
  /** Of a temperature its hottest, of anything else its mean over the window, of a gauge what was read. */
  readonly read: 'peak' | 'mean';
  readonly baseline: number;
  readonly candidate: number;
  readonly difference: number;
  /** Half of the 95 % interval; NaN with fewer than two pulls on a side. */
  readonly half: number;
  readonly byHand: boolean;
}

/**
 * Channels that the question is not asked of: plain means of the two sides' used pulls, and their difference with a pointwise 95 %
 * interval from the scatter of the pulls alone (two samples, pooled; Student 1908). Drift and rounds are not in it, so it gets no verdict.
 * @example alsoSeen(newJob('1', 'x'), judgeJob(newJob('1', 'x')), 'B') // []
 */
export function alsoSeen(
  job: Job,
  { pulls, window }: Pick<Judgement, 'pulls' | 'window'>,
  candidate: string,
): AlsoSeen[] {
  const side = sideOfSetup(job, candidate);
  if (side === null) return [];
  const asked = new Set(job.question.measures.map((m) => m.channel));
  const used = pulls.filter((p) => p.used && [0, side].includes(sideOfSetup(job, p.setupId) ?? -1));
  const names = [...new Set(used.flatMap((p) => p.readings.channels.map((c) => c.name)))].filter((n) => !asked.has(n));
  return names.flatMap((channel): AlsoSeen[] => {
    const read = isTemperature(channel) ? ('peak' as const) : ('mean' as const);
    const of = (at: number) =>
      used.filter((p) => sideOfSetup(job, p.setupId) === at).flatMap((p) => valueOf(p, channel, read, window) ?? []);
    const [a, b] = [of(0), of(side)];
    if (a.length === 0 || b.length === 0) return [];
    const [baseline, own] = [mean(a), mean(b)];
    return [
      {
        ...{ channel, read, baseline, candidate: own, difference: own - baseline, half: pooledHalf(a, b) },
        byHand: used.some((p) => p.readings.channels.some((c) => c.name === channel && c.byHand)),
      },
    ];
  });
}

function valueOf(
  { readings }: JudgedPull,
  channel: string,
  read: AlsoSeen['read'],
  window: Judgement['window'],
): number | null {
  const own = readings.channels.find((c) => c.name === channel);
  const value = own ? (own.byHand ? gauge(own) : read === 'peak' ? own.peak : over(own, window)) : NaN;
  return Number.isFinite(value) ? value : null;
}

const over = (own: ChannelReading, window: Judgement['window']) => (window ? channelMean(own, ...window) : NaN);
/** The highest of what was read, else the end, else the start. */
const gauge = ({ peak, end, start }: ChannelReading) => [peak, end, start].find(Number.isFinite) ?? NaN;

function pooledHalf(a: readonly number[], b: readonly number[]): number {
  const degrees = a.length + b.length - 2;
  if (a.length < 2 || b.length < 2) return NaN;
  const squares = (list: readonly number[]) => {
    const m = mean(list);
    return list.reduce((sum, v) => sum + (v - m) ** 2, 0);
  };
  const variance = (squares(a) + squares(b)) / degrees;
  return studentT(0.975, degrees) * Math.sqrt(variance * (1 / a.length + 1 / b.length));
}
