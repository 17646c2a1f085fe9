/** What a question can be asked of. A measure of a channel names the channel, one at an engine speed names the speed. */
export const MEASURE_IDS = [
  'windowMeanPower',
  'windowMeanTorque',
  'peakPower',
  'peakTorque',
  'powerAt',
  'torqueAt',
  'start',
  'end',
  'peak',
  'rise',
  'mean',
  'effectiveness',
  'fade',
  'rollOnTime',
  'responseDeficit',
  'roadTime',
] as const;
export type MeasureId = (typeof MEASURE_IDS)[number];

/** A measure as it was agreed before the first counted pull; members that its id does not need are absent. */
export interface DeclaredMeasure {
  readonly id: MeasureId;
  /** Name of a recorded channel, of `start`, `end`, `peak`, `rise` and `mean`. */
  readonly channel?: string;
  /** Engine speed of `powerAt` and `torqueAt`. */
  readonly rpm?: number;
  /** Torque that counts as there, N·m, of `rollOnTime` and `responseDeficit`; absent: 90 % of the mean peak of the baseline's first round of roll-ons. */
  readonly target?: number;
  /** Road speeds of `roadTime`, km/h. */
  readonly fromKmH?: number;
  readonly toKmH?: number;
  /** A window of its own; absent: the question's. */
  readonly windowRpm?: readonly [number, number];
  /** The size that would matter: true per cent of a log measure, the unit itself of an additive one. */
  readonly meaningful: number;
}

/** A question is asked of one to so many measures. */
export const MOST_MEASURES = 3;

/** What a measure needs besides its id. */
const NEEDS: Readonly<Record<MeasureId, 'channel' | 'rpm' | 'speeds' | null>> = {
  windowMeanPower: null,
  windowMeanTorque: null,
  peakPower: null,
  peakTorque: null,
  powerAt: 'rpm',
  torqueAt: 'rpm',
  start: 'channel',
  end: 'channel',
  peak: 'channel',
  rise: 'channel',
  mean: 'channel',
  effectiveness: null,
  fade: null,
  rollOnTime: null,
  responseDeficit: null,
  roadTime: 'speeds',
};

/** Measures that are read over an rpm window. */
const WINDOWED: readonly MeasureId[] = ['windowMeanPower', 'windowMeanTorque', 'mean'];

/**
 * What a measure needs besides its id: a channel, an engine speed, two road speeds, or nothing.
 * @example measureNeeds('peak') // 'channel'
 */
export function measureNeeds(id: MeasureId): 'channel' | 'rpm' | 'speeds' | null {
  return NEEDS[id];
}

/**
 * Whether a text is the id of a measure.
 * @example isMeasureId('powerAt') // true
 */
export function isMeasureId(text: string): text is MeasureId {
  return (MEASURE_IDS as readonly string[]).includes(text);
}

/**
 * The name of a measure: its id, with its channel or parameter in brackets where it has one.
 * @example measureName({ id: 'peak', channel: 'charge_c', meaningful: 3 }) // 'peak(charge_c)'
 */
export function measureName({ id, channel, rpm, fromKmH, toKmH }: Omit<DeclaredMeasure, 'meaningful'>): string {
  const need = NEEDS[id];
  const of =
    need === 'channel' ? channel : need === 'rpm' ? rpm : need === 'speeds' ? `${fromKmH}-${toKmH}` : undefined;
  return of === undefined ? id : `${id}(${of})`;
}

/**
 * The measure of a name that `measureName` gave, without the size that would matter; null when it is none.
 * @example measureNamed('powerAt(4000)') // { id: 'powerAt', rpm: 4000 }
 */
export function measureNamed(name: string): Omit<DeclaredMeasure, 'meaningful'> | null {
  const [, id = '', of] = /^([A-Za-z]+)(?:\(([^()]+)\))?$/.exec(name) ?? [];
  if (!isMeasureId(id)) return null;
  const need = NEEDS[id];
  if ((need === null) !== (of === undefined)) return null;
  if (need === 'speeds') {
    const [fromKmH, toKmH, ...more] = of!.split('-').map(Number);
    return more.length === 0 && toKmH! > fromKmH! ? { id, fromKmH: fromKmH!, toKmH: toKmH! } : null;
  }
  if (need === 'rpm') return Number.isFinite(Number(of)) ? { id, rpm: Number(of) } : null;
  return need === 'channel' ? { id, channel: of! } : { id };
}

/**
 * Whether a measure is read from roll-ons.
 * @example isOfRollOns('responseDeficit') // true
 */
export function isOfRollOns(id: MeasureId): boolean {
  return id === 'rollOnTime' || id === 'responseDeficit';
}

/**
 * Whether a measure is read from passes on the road; every other one is read from pulls on the rollers.
 * @example isOfRoad('roadTime') // true
 */
export function isOfRoad(id: MeasureId): boolean {
  return id === 'roadTime';
}

/**
 * Whether a measure is read over an rpm window.
 * @example isWindowed('mean') // true
 */
export function isWindowed(id: MeasureId): boolean {
  return WINDOWED.includes(id);
}
