import { forecastCoolDown, type CoolDownForecast, type RecoverySample } from '@prandel/core';

export const COOLING_KEYS = ['intakeC', 'coolantC', 'oilC'] as const;
export type CoolingKey = (typeof COOLING_KEYS)[number];

const MOST_SAMPLES = 120;
/** Only the last minutes speak: a fan that was moved meanwhile starts another recovery. */
const WINDOW_S = 360;

/** The recoveries since the last pull, and when each temperature will have met its limit. */
export class Recovery {
  #since: number | null = null;
  readonly #traces = new Map<CoolingKey, RecoverySample[]>();

  /** A pull ended at this bay time. */
  begin(atMs: number): void {
    this.#since = atMs;
    this.#traces.clear();
  }

  push(key: CoolingKey, atMs: number, celsius: number): void {
    if (this.#since === null) return;
    const seconds = (atMs - this.#since) / 1000;
    const trace = this.#traces.get(key) ?? [];
    const last = trace.at(-1);
    if (last && seconds - last.seconds < 1) return;
    trace.push({ seconds, celsius });
    // A long recovery keeps its shape with every other reading.
    this.#traces.set(key, trace.length > MOST_SAMPLES ? trace.filter((_, i) => i % 2 === 0) : trace);
  }

  forecast(key: CoolingKey, bayAirC: number, limitC: number): CoolDownForecast {
    const trace = this.#traces.get(key) ?? [];
    const end = trace.at(-1)?.seconds ?? 0;
    return forecastCoolDown(
      trace.filter((s) => s.seconds >= end - WINDOW_S),
      bayAirC,
      limitC,
    );
  }
}
