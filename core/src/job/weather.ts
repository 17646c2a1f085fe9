import type { Air } from '../air/air.ts';
import { correctionFactor, type CorrectionFactor } from '../correction/standards.ts';
import type { Job, Method, Pull, WeatherReading } from './job.ts';

/** Weather readings may stand in for a pull's own within this time. */
const NEAREST_READING_MIN = 15;
/** Humidity that stands in when nobody measured any. Common practice, no source. */
const ASSUMED_HUMIDITY = 0.5;

/** The air around a pull, with what had to be assumed. */
export interface PullWeather {
  /** Null when pressure or air temperature is not known. */
  readonly air: Air | null;
  /** The bay's air temperature, known or not with a pressure beside it. */
  readonly airC: number | null;
  readonly humidityAssumed: boolean;
  readonly factor: CorrectionFactor | null;
}

/**
 * A pull's own weather, its gaps filled from the job's readings, and the method's correction factor for it.
 * @example pullWeather(newJob('1', 'x'), newPull('p', 'A', 1)).air // null
 */
export function pullWeather(job: Pick<Job, 'weather' | 'method'>, pull: Pull): PullWeather {
  const filled = (key: 'pressureHpa' | 'airC' | 'relativeHumidity') =>
    pull[key] ?? readingAt(job.weather, pull.startedAt, key);
  const pressureHpa = filled('pressureHpa');
  const airC = filled('airC');
  const humidity = filled('relativeHumidity');
  if (pressureHpa === null || airC === null) return { air: null, airC, humidityAssumed: false, factor: null };
  const air = { pressureHpa, airC, relativeHumidity: humidity ?? ASSUMED_HUMIDITY };
  return { air, airC, humidityAssumed: humidity === null, factor: factorFor(job.method, air) };
}

function factorFor(method: Method, air: Air): CorrectionFactor | null {
  if (method.correction === 'iso-1585-ci' && !method.compressionIgnition) return null;
  return correctionFactor(method.correction, air, method.compressionIgnition);
}

function readingAt(
  readings: readonly WeatherReading[],
  startedAt: string | null,
  key: 'pressureHpa' | 'airC' | 'relativeHumidity',
): number | null {
  if (!startedAt) return null;
  const at = Date.parse(startedAt);
  const known = readings
    .filter((reading) => reading[key] !== null)
    .map((reading) => ({ at: Date.parse(reading.at), value: reading[key]! }))
    .sort((a, b) => a.at - b.at);
  const before = known.findLast((reading) => reading.at <= at);
  const after = known.find((reading) => reading.at >= at);
  const near = (reading?: { at: number }) =>
    reading !== undefined && Math.abs(reading.at - at) <= NEAREST_READING_MIN * 60_000;
  if (near(before) && near(after)) {
    const span = after!.at - before!.at;
    return span === 0 ? before!.value : before!.value + ((after!.value - before!.value) * (at - before!.at)) / span;
  }
  if (near(before)) return before!.value;
  return near(after) ? after!.value : null;
}
