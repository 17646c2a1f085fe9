import { Injectable, NotFoundException } from '@nestjs/common';
import { ApiProperty } from '@nestjs/swagger';
import { and, asc, eq, isNull } from 'drizzle-orm';
import { Database } from '../database/database.ts';
import { jobs, parts, setupChanges } from '../database/schema.ts';
import type { Caller } from '../people/caller.ts';

/** A part of the shop's record that a setup has fitted, with what a bench said of it. */
export class FittedPart {
  @ApiProperty() setupId: string;
  @ApiProperty() name: string;
  @ApiProperty({ nullable: true, type: Number, description: 'L/s' }) benchFlowLS: number | null;
  @ApiProperty({ nullable: true, type: Number, description: 'Drop of pressure at that flow, kPa.' })
  benchDropKpa: number | null;
  @ApiProperty({ nullable: true, type: Number, description: 'Degrees Celsius.' }) benchAirC: number | null;
  @ApiProperty({ description: 'Who measured it; empty: nobody said.' }) benchSource: string;
  @ApiProperty({ nullable: true, type: Number }) price: number | null;
  @ApiProperty({ nullable: true, type: String }) currency: string | null;
  @ApiProperty({ nullable: true, type: Number, description: 'Hours it takes to fit.' }) hours: number | null;
}

/** Parts of a job's setups that the shop keeps on record. */
@Injectable()
export class FittedParts {
  constructor(private readonly database: Database) {}

  /** @throws NotFoundException when this shop has no such job */
  of({ shopId }: Caller, jobId: string): Promise<FittedPart[]> {
    return this.database.inShop(shopId, async (tx) => {
      const [known] = await tx
        .select({ id: jobs.id })
        .from(jobs)
        .where(and(eq(jobs.id, jobId), isNull(jobs.deletedAt)));
      if (!known) throw new NotFoundException('This shop has no such job.');
      const rows = await tx
        .select({
          ...{ setupId: setupChanges.setupKey, name: parts.name, benchFlowLS: parts.benchFlowLS },
          ...{ price: parts.price, currency: parts.currency, hours: parts.hours },
          ...{ benchDropKpa: parts.benchDropKpa, benchAirC: parts.benchAirC, benchSource: parts.benchSource },
        })
        .from(setupChanges)
        .innerJoin(parts, eq(parts.id, setupChanges.partId))
        .where(and(eq(setupChanges.jobId, jobId), eq(setupChanges.kind, 'part-fitted')))
        .orderBy(asc(setupChanges.setupKey), asc(setupChanges.place));
      // A record whose currency nobody typed has an empty one.
      return rows.map((row) => ({ ...row, currency: row.currency || null }));
    });
  }
}
