import { channelWords } from '../bay/channelWords.ts';
import { HAND_MOMENTS, type HandReading, type Pull } from '../job/job.ts';
import type { ChannelReading, PullReadings } from './channelReadings.ts';

/** Bounds of what a gauge in a car can show, by the unit its channel's name ends in. Judgement, no source. */
const GAUGES: readonly (readonly [ending: string, low: number, high: number])[] = [
  ['exhaust_c', -60, 1300],
  ['_c', -60, 400],
  ['vacuum_kpa', -20, 101],
  ['_kpa', 0, 2000],
  ['_bar', -1, 300],
  ['lambda', 0.3, 10],
  ['_deg', -90, 90],
];

/**
 * What no gauge of a car shows, as its bounds; null where a reading can be.
 * @example beyondGauge('charge_c', 3000) // [-60, 400]
 */
export function beyondGauge(channel: string, value: number): readonly [number, number] | null {
  const bounds = GAUGES.find(([ending]) => channel.endsWith(ending));
  if (!Number.isFinite(value)) return [-1e6, 1e6];
  const [, low, high] = bounds ?? ['', -1e6, 1e6];
  return value < low || value > high ? [low, high] : null;
}

/**
 * Why a gauge was not read so, in a sentence without a full stop; null: it was.
 * @example handReadingProblem({ pullId: 'A-1', channel: 'oil_c', moment: 'peak', value: 104 }) // null
 */
export function handReadingProblem({ channel, moment, value }: HandReading): string | null {
  if (!/^[a-z][a-z0-9_]{0,60}$/.test(channel)) return `"${channel.slice(0, 60)}" is no channel: lower case, as oil_c`;
  if (!HAND_MOMENTS.includes(moment)) return `"${String(moment)}" is none of ${HAND_MOMENTS.join(', ')}`;
  const bounds = beyondGauge(channel, value);
  if (!bounds) return null;
  const { unit } = channelWords(channel);
  return `${value} ${unit} is outside ${bounds[0]}–${bounds[1]} ${unit} for ${channel}`.replaceAll('  ', ' ');
}

/** A channel of which only what a gauge showed is known. */
function gauge(name: string, own: readonly HandReading[]): ChannelReading {
  const at = (moment: HandReading['moment']) => own.find((r) => r.moment === moment)?.value ?? NaN;
  const values = own.map((r) => r.value);
  return {
    ...{ name, byHand: true as const, start: at('start'), end: at('end'), peak: at('peak') },
    ...{
      plateau: NaN,
      recoveryS: NaN,
      low: Math.min(...values),
      high: Math.max(...values),
      heard: 1,
      first: 0,
      cells: new Float32Array(0),
    },
  };
}

/**
 * Readings of a pull with the gauges that somebody read during it; what was recorded is never typed over.
 * @example withHandReadings(NO_READINGS, { id: 'A-1' }, [{ pullId: 'A-1', channel: 'oil_c', moment: 'peak', value: 104 }]).channels[0].peak // 104
 */
export function withHandReadings(
  readings: PullReadings,
  pull: Pick<Pull, 'id'>,
  hand: readonly HandReading[],
): PullReadings {
  const own = hand.filter((r) => r.pullId === pull.id && !readings.channels.some((c) => c.name === r.channel));
  if (own.length === 0) return readings;
  const names = [...new Set(own.map((r) => r.channel))];
  const gauges = names.map((name) =>
    gauge(
      name,
      own.filter((r) => r.channel === name),
    ),
  );
  return { ...readings, channels: [...readings.channels, ...gauges] };
}

/**
 * What a gauge showed as the throttle opened; null where nobody read it.
 * @example handStart([], 'A-1', 'oil_c') // null
 */
export function handStart(hand: readonly HandReading[], pullId: string, channel: string): number | null {
  return hand.find((r) => r.pullId === pullId && r.channel === channel && r.moment === 'start')?.value ?? null;
}
