import { Controller, Get, Injectable, Res } from '@nestjs/common';
import { ApiOkResponse, ApiProperty, ApiTags } from '@nestjs/swagger';
import type { Response } from 'express';
import { Database } from '../database/database.ts';
import { LiveBays } from '../live/liveBays.ts';
import { Access } from '../people/access.ts';
import { diskState, type DiskState } from './disk.ts';

/** What an operator's monitor needs to know; nothing in it names a shop, a person or a car. */
export class Health {
  @ApiProperty({ description: 'This process answers.' }) live: boolean;
  @ApiProperty({ description: 'Everything that people need works.' }) ready: boolean;
  @ApiProperty({ enum: ['ok', 'away'] }) database: 'ok' | 'away';
  @ApiProperty({ enum: ['ok', 'low', 'full', 'unknown'] }) disk: DiskState['state'] | 'unknown';
  @ApiProperty({ nullable: true, type: Number }) diskFreeBytes: number | null;
  @ApiProperty({ enum: ['ok', 'away'], description: 'The process of the bays.' }) bays: 'ok' | 'away';
  @ApiProperty({ nullable: true, type: Number, description: 'Bays that the process of the bays leads.' })
  baysLed: number | null;
  @ApiProperty({ nullable: true, type: Number, description: 'Bays that cannot record, or that another process leads.' })
  baysNotLed: number | null;
  @ApiProperty({ nullable: true, type: Number, description: 'Samples that nothing could store yet.' })
  waitingSamples: number | null;
  @ApiProperty({ nullable: true, type: Number, description: 'Recordings that wait for a person.' })
  quarantined: number | null;
}

type BaysHealth = Pick<Health, 'bays' | 'baysLed' | 'baysNotLed' | 'waitingSamples' | 'quarantined'>;

const AWAY: BaysHealth = { bays: 'away', baysLed: null, baysNotLed: null, waitingSamples: null, quarantined: null };
const ANSWER_MS = 2000;

@Injectable()
export class HealthService {
  constructor(
    private readonly database: Database,
    private readonly bays: LiveBays,
  ) {}

  async now(): Promise<Health> {
    const [database, disk, bays] = await Promise.all([this.#database(), diskState().catch(() => null), this.#bays()]);
    return {
      live: true,
      ready: database === 'ok' && bays.bays === 'ok' && disk?.state !== 'full',
      database,
      disk: disk?.state ?? 'unknown',
      diskFreeBytes: disk?.freeBytes ?? null,
      ...bays,
    };
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

@ApiTags('operations')
@Access({ open: true })
@Controller('api/health')
export class HealthController {
  constructor(private readonly health: HealthService) {}

  /** For the operator's monitor: 200 when everything works, 503 with the same body when something does not. */
  @Get()
  @ApiOkResponse({ type: Health })
  async now(@Res({ passthrough: true }) response: Response): Promise<Health> {
    const health = await this.health.now();
    response.status(health.ready ? 200 : 503);
    return health;
  }
}
