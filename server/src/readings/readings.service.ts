import { BadRequestException, Injectable, NotFoundException } from '@nestjs/common';
import { handReadingProblem, LIMITS, pressureFitsElevation, type HandReading } from '@prandel/core';
import { and, eq } from 'drizzle-orm';
import { Database } from '../database/database.ts';
import { pulls } from '../database/schema.ts';
import { record } from '../evidence/evidence.ts';
import { JobStore } from '../jobs/jobStore.ts';
import { changedFacts } from '../jobs/pullDigests.ts';
import { writeHandReadings } from '../jobs/readingRows.ts';
import { LiveBays } from '../live/liveBays.ts';
import type { Caller } from '../people/caller.ts';
import type { AirReading, GaugesDto, StartReading } from './readings.dto.ts';

const NAMES = { intakeStartC: 'intake air', coolantStartC: 'coolant', oilStartC: 'oil' } as const;

/** Gauges read by hand: the bay's air where it has no weather station, and spot readings of a car without a sensor. */
@Injectable()
export class ReadingsService {
  constructor(
    private readonly database: Database,
    private readonly store: JobStore,
    private readonly bays: LiveBays,
  ) {}

  /** The bay's air now. @throws BadRequestException for a pressure that was reduced to sea level */
  air(caller: Caller, id: string, body: AirReading): Promise<void> {
    return this.database.inShop(caller.shopId, async (tx) => {
      const { job } = await this.store.read(tx, id, false);
      const { elevationM } = job.bay;
      if (elevationM !== null && !pressureFitsElevation(body.pressureHpa, elevationM))
        throw new BadRequestException(
          `${body.pressureHpa} hPa does not fit a bay at ${elevationM} m. Type the station pressure, not one reduced to sea level.`,
        );
      const at = new Date(this.bays.with(caller.shopId, id)?.atMs ?? Date.now());
      const reading = { at: at.toISOString(), ...body, relativeHumidity: body.relativeHumidity ?? null };
      await this.store.addWeather(tx, id, reading);
      await this.store.touch(tx, id);
      const what = `Read by hand: ${body.airC.toFixed(1)} °C, ${body.pressureHpa.toFixed(1)} hPa.`;
      await record(tx, caller.shopId, id, { person: caller.name, kind: 'reading', what, at, detail: reading });
    });
  }

  /** Start temperatures of one pull. @throws BadRequestException when nothing is left to type, NotFoundException without such a pull */
  start(caller: Caller, id: string, pullKey: string, body: StartReading): Promise<void> {
    return this.database.inShop(caller.shopId, async (tx) => {
      const [row] = await tx
        .select()
        .from(pulls)
        .where(and(eq(pulls.jobId, id), eq(pulls.pullKey, pullKey)))
        .for('update');
      if (!row) throw new NotFoundException('This job has no such pull.');
      const typed = (['intakeStartC', 'coolantStartC', 'oilStartC'] as const).flatMap((key) => {
        const value = body[key];
        return typeof value === 'number' && row[key] === null ? [[key, value] as const] : [];
      });
      if (typed.length === 0)
        throw new BadRequestException('There is nothing to type: a sensor told it, or no value was given.');
      await tx.update(pulls).set(Object.fromEntries(typed)).where(eq(pulls.id, row.id));
      await this.store.touch(tx, id);
      const words = typed.map(([key, value]) => `${NAMES[key]} ${value} °C`).join(', ');
      const what = `Read by hand at the start of pull ${pullKey}: ${words}.`;
      const detail = await changedFacts(tx, id, pullKey);
      await record(tx, caller.shopId, id, { person: caller.name, kind: 'reading', what, detail });
    });
  }

  /** Gauges that somebody read during pulls. @throws BadRequestException naming the reading that cannot be */
  gauges(caller: Caller, id: string, { readings }: GaugesDto): Promise<void> {
    return this.database.inShop(caller.shopId, async (tx) => {
      await this.store.lock(tx, id);
      const { job } = await this.store.read(tx, id, false);
      const known = new Set(job.pulls.map((p) => p.id));
      const key = (r: Pick<HandReading, 'pullId' | 'channel' | 'moment'>) => `${r.pullId}\n${r.channel}\n${r.moment}`;
      const kept = new Map((job.readings ?? []).map((r) => [key(r), r]));
      for (const { value, ...where } of readings) {
        if (!known.has(where.pullId)) throw new BadRequestException(`This job has no pull ${where.pullId}.`);
        if (value === null || value === undefined) {
          kept.delete(key(where));
          continue;
        }
        const wrong = handReadingProblem({ ...where, value });
        if (wrong) throw new BadRequestException(`Pull ${where.pullId}: ${wrong}.`);
        kept.set(key(where), { ...where, value });
      }
      if (kept.size > LIMITS.handReadings)
        throw new BadRequestException(`A job keeps at most ${LIMITS.handReadings} readings by hand.`);
      await writeHandReadings(tx, caller.shopId, id, [...kept.values()]);
      await this.store.touch(tx, id);
      const pulls = [...new Set(readings.map((r) => r.pullId))];
      const channels = [...new Set(readings.map((r) => r.channel))];
      const what = `Read by hand: ${channels.join(', ')} of ${pulls.join(', ')}.`;
      const detail = { readings: readings.map((r) => ({ ...r, value: r.value ?? null })) };
      await record(tx, caller.shopId, id, { person: caller.name, kind: 'reading', what, detail });
    });
  }
}
