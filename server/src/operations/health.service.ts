import { monitorEventLoopDelay } from 'node:perf_hooks';
import { Injectable } from '@nestjs/common';
import { Database } from '../database/database.ts';
import { LiveBays } from '../live/liveBays.ts';
import { diskState } from './disk.ts';
import type { Health } from './health.dto.ts';

type BaysHealth = Pick<Health, 'bays' | 'baysLed' | 'baysNotLed' | 'waitingSamples' | 'quarantined'>;

const AWAY: BaysHealth = { bays: 'away', baysLed: null, baysNotLed: null, waitingSamples: null, quarantined: null };
const ANSWER_MS = 2000;
const RESOLUTION_MS = 10;

@Injectable()
export class HealthService {
  readonly #loop = monitorEventLoopDelay({ resolution: RESOLUTION_MS });

  constructor(
    private readonly database: Database,
    private readonly bays: LiveBays,
  ) {
    this.#loop.enable();
  }

  async now(): Promise<Health> {
    const [database, disk, bays] = await Promise.all([this.#database(), diskState().catch(() => null), this.#bays()]);
    return {
      live: true,
      longestStallMs: this.#longestStall(),
      ready: database === 'ok' && bays.bays === 'ok' && disk?.state !== 'full',
      database,
      disk: disk?.state ?? 'unknown',
      diskFreeBytes: disk?.freeBytes ?? null,
      ...bays,
    };
  }

  /** The monitor ticks every ten milliseconds; what it measures beyond them is delay. */
  #longestStall(): number {
    const longest = Math.max(0, this.#loop.max / 1e6 - RESOLUTION_MS);
    this.#loop.reset();
    return Number.isFinite(longest) ? Math.round(longest) : 0;
  }

  async #database(): Promise<Health['database']> {
    let timer: NodeJS.Timeout | undefined;
    const late = new Promise<never>((_, fail) => {
      timer = setTimeout(() => fail(new Error('no answer')), ANSWER_MS);
    });
    const asked = this.database.pool.query('SELECT 1');
    asked.catch(() => undefined);
    try {
      await Promise.race([asked, late]);
      return 'ok';
    } catch {
      return 'away';
    } finally {
      clearTimeout(timer);
    }
  }

  async #bays(): Promise<BaysHealth> {
    const elsewhere = process.env.PRANDEL_BAYS;
    if (!elsewhere) return { bays: 'ok', ...this.bays.health() };
    try {
      const answer = await fetch(`${elsewhere}/api/health`, { signal: AbortSignal.timeout(ANSWER_MS) });
      const { bays, baysLed, baysNotLed, waitingSamples, quarantined } = (await answer.json()) as Health;
      return { bays, baysLed, baysNotLed, waitingSamples, quarantined };
    } catch {
      return AWAY;
    }
  }
}
