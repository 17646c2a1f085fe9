import { studentT, type Job, type JudgedPull, type Judgement } from '@prandel/core';

/** What channels are drawn over: engine speed, or seconds from the start of full throttle. */
export type ChannelAxis = 'rpm' | 'time';

/** Distance of two points: rpm, or seconds. */
export const CHANNEL_STEP: Readonly<Record<ChannelAxis, number>> = { rpm: 25, time: 0.1 };

/** A channel of one pull at even places; NaN in a hole. The first place is `first` steps from zero. */
export interface ChannelLine {
  readonly first: number;
  readonly values: ArrayLike<number>;
}

/** A channel of a pull over engine speed or time; null where it was not recorded, or a gauge was read. */
export function channelLine({ readings }: JudgedPull, channel: string, axis: ChannelAxis): ChannelLine | null {
  const own = readings.channels.find((c) => c.name === channel && !c.byHand);
  if (!own || own.cells.length === 0) return null;
  if (axis === 'rpm') return { first: own.first, values: own.cells };
  return readings.seconds && overTime(readings.seconds.cells, own.cells);
}

/** Values by the seconds at which they were read, straight between them. */
function overTime(seconds: ArrayLike<number>, cells: ArrayLike<number>): ChannelLine | null {
  const known = Array.from(seconds, (t, i) => [t, cells[i]!] as const)
    .filter(([t, v]) => Number.isFinite(t) && Number.isFinite(v))
    .sort((a, b) => a[0] - b[0]);
  const step = CHANNEL_STEP.time;
  const last = known.at(-1)?.[0] ?? NaN;
  if (known.length < 2 || !(last > step)) return null;
  const first = Math.ceil(known[0]![0] / step);
  const values = new Float64Array(Math.max(0, Math.floor(last / step) - first + 1));
  let k = 0;
  for (let i = 0; i < values.length; i += 1) {
    const at = (first + i) * step;
    while (k + 2 < known.length && known[k + 1]![0] < at) k += 1;
    const [[t0, v0], [t1, v1]] = [known[k]!, known[k + 1]!];
    values[i] = t1 > t0 ? v0 + ((at - t0) / (t1 - t0)) * (v1 - v0) : v1;
  }
  return { first, values };
}

/** Mean of a setup's counted pulls with a pointwise 95 % band; NaN where a pull has a hole. */
export interface ChannelMean {
  readonly setupId: string;
  readonly first: number;
  readonly mean: readonly number[];
  readonly half: readonly number[];
}

const countedOf = (pulls: readonly JudgedPull[], setupId: string) =>
  pulls.filter((p) => p.setupId === setupId && p.status === 'counted' && (p.used || p.notUsedBecause === null));

/** Means of a channel by setup; setups without a counted pull that has it are left out. */
export function channelMeans(
  { job, judgement }: { readonly job: Job; readonly judgement: Judgement },
  channel: string,
  axis: ChannelAxis = 'rpm',
): ChannelMean[] {
  return job.setups.flatMap((setup): ChannelMean[] => {
    const own = countedOf(judgement.pulls, setup.id).flatMap((p) => channelLine(p, channel, axis) ?? []);
    if (own.length === 0) return [];
    const first = Math.max(...own.map((c) => c.first));
    const last = Math.min(...own.map((c) => c.first + c.values.length));
    if (last <= first) return [];
    const columns = Array.from({ length: last - first }, (_, i) => own.map((c) => c.values[first + i - c.first]!));
    const mean = columns.map((v) => v.reduce((a, b) => a + b, 0) / v.length);
    const n = own.length;
    const t = n > 1 ? studentT(0.975, n - 1) : NaN;
    const half = columns.map((v, i) => t * Math.sqrt(v.reduce((a, b) => a + (b - mean[i]!) ** 2, 0) / (n - 1) / n));
    return [{ setupId: setup.id, first, mean, half }];
  });
}

/** Mean and half of the band of every setup at one place of the axis; setups that do not reach it are left out. */
export function channelAt(means: readonly ChannelMean[], axis: ChannelAxis, place: number) {
  return means.flatMap(({ setupId, first, mean, half }) => {
    const i = Math.round(place / CHANNEL_STEP[axis]) - first;
    const value = mean[i];
    return value === undefined || !Number.isFinite(value) ? [] : [{ setupId, value, half: half[i]! }];
  });
}

/** The longest time that the channels of a job reach, whole seconds up. */
export function channelSeconds({ pulls }: Pick<Judgement, 'pulls'>): number {
  const ends = pulls.filter((p) => p.used && p.readings.seconds).map((p) => p.readings.seconds!.cells);
  return Math.ceil(ends.reduce((most, cells) => cells.reduce((a, t) => (t > a ? t : a), most), 0));
}
