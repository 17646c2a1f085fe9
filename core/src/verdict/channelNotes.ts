import type { ChannelReading } from '../measures/channelReadings.ts';
import { rollOnResponse } from '../measures/rollOn.ts';
import { beyondGauge } from '../measures/handReadings.ts';
import { isOfRollOns, measureNeeds } from '../measures/declaredMeasure.ts';
import { conditionFinding, type ConditionFinding } from './conditionFindings.ts';
import type { Candidate, Selection } from './selection.ts';
import type { AnalysisSettings } from './settings.ts';

interface Noted {
  readonly settings: AnalysisSettings;
  readonly selection: Selection;
  readonly unread: readonly Candidate[];
  readonly side: number;
}

/** Pulls of the pair that would count and do not read on the measure: they are left out of its verdict, which says so. */
export function unreadFindings({ settings, unread, selection, side }: Noted): ConditionFinding[] {
  const own = (c: Candidate) => c.side === 0 || c.side === side;
  const missing = unread.filter(own).map(({ name }) => name);
  if (missing.length === 0) return [];
  const of = missing.length + selection.used.filter(own).length;
  const { measure } = settings.endpoint;
  if (isOfRollOns(measure.id)) {
    const recordedS = Math.max(
      ...unread.filter(own).map((c) => rollOnResponse(c.readings.rollOn!, Infinity).recordedS),
    );
    return [
      conditionFinding('target-not-reached', 'warning', {
        pulls: missing,
        recordedS,
        targetNm: Number.isFinite(settings.targetNm) ? settings.targetNm : null,
      }),
    ];
  }
  return [conditionFinding('not-read', missing.length >= of / 2 ? 'blocking' : 'warning', { pulls: missing, of })];
}

/** What is odd about the channel that a measure reads. */
export function channelFindings({ settings, selection, side }: Noted): ConditionFinding[] {
  const { id, channel, meaningful } = settings.endpoint.measure;
  if (measureNeeds(id) !== 'channel' || channel === undefined) return [];
  const own = selection.used
    .filter((c) => c.side === 0 || c.side === side)
    .flatMap((c) => {
      const reading = c.readings.channels.find(({ name }) => name === channel);
      return reading ? [{ name: c.name, reading }] : [];
    });
  if (own.length === 0) return [];
  const still = own.filter(({ reading }) => !reading.byHand && reading.low === reading.high);
  const wrong = own.map(({ reading }) => implausible(reading)).find((value) => value !== null) ?? null;
  const step = still.length < own.length ? stepOf(own.map(({ reading }) => reading)) : null;
  return [
    ...(still.length > 0
      ? [
          conditionFinding('channel-constant', still.length >= own.length / 2 ? 'blocking' : 'warning', {
            ...{ channel, pulls: still.map(({ name }) => name) },
          }),
        ]
      : []),
    ...(wrong === null ? [] : [conditionFinding('channel-implausible', 'blocking', { channel, value: wrong })]),
    ...(step !== null && step >= meaningful / 2
      ? [conditionFinding('channel-coarse', 'warning', { channel, step })]
      : []),
  ];
}

function implausible({ name, low, high }: ChannelReading): number | null {
  return [low, high].find((value) => Number.isFinite(value) && beyondGauge(name, value)) ?? null;
}

/** The unit in which a sensor steps, where all that it read lies on whole multiples of 1 or of a half; null where it is finer. */
function stepOf(readings: readonly ChannelReading[]): number | null {
  const ends = readings.flatMap(({ low, high }) => [low, high]).filter(Number.isFinite);
  const on = (step: number) => ends.length > 3 && ends.every((v) => Math.abs(v / step - Math.round(v / step)) < 1e-6);
  return on(1) ? 1 : on(0.5) ? 0.5 : null;
}
