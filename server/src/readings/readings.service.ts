import { BadRequestException, Injectable, NotFoundException } from '@nestjs/common';
import { pressureFitsElevation } from '@prandel/core';
import { and, eq } from 'drizzle-orm';
import { Database } from '../database/database.ts';
import { pulls } from '../database/schema.ts';
import { record } from '../evidence/evidence.ts';
import { JobStore } from '../jobs/jobStore.ts';
import { LiveBays } from '../live/liveBays.ts';
import type { Caller } from '../people/caller.ts';
import type { AirReading, StartReading } from './readings.dto.ts';

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
      await record(tx, caller.shopId, id, { person: caller.name, kind: 'reading', what });
    });
  }
}
