import type { Database } from '../database/database.ts';
import { record } from '../evidence/evidence.ts';
import type { JobStore } from '../jobs/jobStore.ts';
import type { Readings } from './readings.ts';

const EVERY_MS = 10 * 60_000;

/** Writes the bay's weather into the job every ten minutes of bay time. */
export class WeatherLog {
  #lastMs = 0;

  constructor(
    private readonly database: Database,
    private readonly store: JobStore,
    private readonly shopId: string,
    private readonly readings: Readings,
  ) {}

  /** The work of writing the reading that is due, or null when none is. */
  due(jobId: string, atMs: number): (() => Promise<void>) | null {
    const [airC, pressureHpa] = [this.readings.now('airC'), this.readings.now('pressureHpa')];
    if (airC === null || pressureHpa === null) return null;
    if (atMs - this.#lastMs < EVERY_MS && atMs >= this.#lastMs) return null;
    this.#lastMs = atMs;
    const at = new Date(atMs);
    const relativeHumidity = this.readings.now('relativeHumidity');
    const reading = { at: at.toISOString(), pressureHpa, airC, relativeHumidity };
    return () =>
      this.database.inShop(this.shopId, async (tx) => {
        await this.store.addWeather(tx, jobId, reading);
        const what = `Weather: ${airC.toFixed(1)} °C, ${pressureHpa.toFixed(1)} hPa.`;
        await record(tx, this.shopId, jobId, { person: 'the bay', kind: 'reading', what, at, detail: reading });
      });
  }
}
