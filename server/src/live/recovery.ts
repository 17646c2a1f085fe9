import {
  forecastCoolDown,
  USUAL_RECOVERY,
  type CoolDownForecast,
  type RecoveryPrior,
  type RecoverySample,
} from '@prandel/core';

export const COOLING_KEYS = ['intakeC', 'coolantC', 'oilC'] as const;
export type CoolingKey = (typeof COOLING_KEYS)[number];

/** A fluid may still come to rest a little below the coolest reading so far. Judgement. */
const FLUID_BELOW_C = 2;
const MOST_SAMPLES = 120;
/** Only the last minutes speak: a fan that was moved meanwhile starts another recovery. */
const WINDOW_S = 360;

/** The recoveries since the last pull, and when each temperature will have met its limit. */
export class Recovery {
  #since: number | null = null;
  /** The coolest reading of the day: where a fluid comes to rest with the engine running. */
  readonly #lowest = new Map<CoolingKey, number>();
  readonly #traces = new Map<CoolingKey, RecoverySample[]>();

  /** A pull ended at this bay time. */
  begin(atMs: number): void {
    this.#since = atMs;
    this.#traces.clear();
  }

  push(key: CoolingKey, atMs: number, celsius: number): void {
    this.#lowest.set(key, Math.min(celsius, this.#lowest.get(key) ?? Infinity));
    if (this.#since === null) return;
    const seconds = (atMs - this.#since) / 1000;
    const trace = this.#traces.get(key) ?? [];
    const last = trace.at(-1);
    if (last && seconds - last.seconds < 1) return;
    trace.push({ seconds, celsius });
    // A long recovery keeps its shape with every other reading.
    this.#traces.set(key, trace.length > MOST_SAMPLES ? trace.filter((_, i) => i % 2 === 0) : trace);
  }

  /** Intake air comes to rest some degrees above the room; fluids where the thermostat and the day so far have shown. */
  #priorOf(key: CoolingKey, bayAirC: number): RecoveryPrior {
    const lowest = this.#lowest.get(key);
    return key === 'intakeC' || lowest === undefined
      ? USUAL_RECOVERY
      : { ...USUAL_RECOVERY, aboveAirC: Math.max(0, lowest - bayAirC - FLUID_BELOW_C) };
  }

  forecast(key: CoolingKey, bayAirC: number, limitC: number): CoolDownForecast {
    const trace = this.#traces.get(key) ?? [];
    const end = trace.at(-1)?.seconds ?? 0;
    return forecastCoolDown(
      trace.filter((s) => s.seconds >= end - WINDOW_S),
      bayAirC,
      limitC,
      this.#priorOf(key, bayAirC),
    );
  }
}
