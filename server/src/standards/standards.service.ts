import { BadRequestException, ConflictException, Injectable, NotFoundException } from '@nestjs/common';
import { asc, eq } from 'drizzle-orm';
import { Database } from '../database/database.ts';
import { sqlState, UNIQUE_VIOLATION } from '../database/faults.ts';
import { ownStandards } from '../database/schema.ts';
import { nameOf, type Upload } from '../files/uploads.ts';
import { Made } from '../http/answers.ts';
import type { Caller } from '../people/caller.ts';
import { WorkPool } from '../work/workPool.ts';
import type { NewStandard, SheetPull, StandardRow } from './standards.dto.ts';

const READING_S = 60;

/** Correction standards of a shop's own, and what a file says of the one that it is under. */
@Injectable()
export class StandardsService {
  constructor(
    private readonly database: Database,
    private readonly pool: WorkPool,
  ) {}

  /** Peaks of the pulls of a file, with what it says of its correction and its weather; nothing is stored. @throws UnreadableError */
  sheet({ shopId }: Caller, upload: Upload): Promise<SheetPull[]> {
    const input = { path: upload.path, name: nameOf(upload) };
    return this.pool.run(shopId, 'sheetPulls', () => ({ input }), { timeoutS: READING_S });
  }

  list({ shopId }: Caller): Promise<StandardRow[]> {
    const { id, name, kind, referenceC, referenceHpa, pressure, mechanicalEfficiency, factor } = ownStandards;
    return this.database.inShop(shopId, (tx) =>
      tx
        .select({ id, name, kind, referenceC, referenceHpa, pressure, mechanicalEfficiency, factor })
        .from(ownStandards)
        .orderBy(asc(name)),
    );
  }

  async add({ shopId }: Caller, { name, kind, ...said }: NewStandard): Promise<Made> {
    const {
      referenceC = null,
      referenceHpa = null,
      pressure = null,
      mechanicalEfficiency = null,
      factor = null,
    } = said;
    const whole = { referenceC, referenceHpa, pressure, mechanicalEfficiency };
    if (kind === 'factor' && factor === null) throw new BadRequestException('Say the factor that the sheet prints.');
    if (kind === 'reference' && Object.values(whole).includes(null))
      throw new BadRequestException(
        'A standard has a reference temperature and pressure, dry or total, and an efficiency.',
      );
    const own = kind === 'factor' ? { factor } : whole;
    try {
      const [row] = await this.database.inShop(shopId, (tx) =>
        tx
          .insert(ownStandards)
          .values({ shopId, name, kind, ...own })
          .returning({ id: ownStandards.id }),
      );
      return { id: row!.id };
    } catch (error) {
      if (sqlState(error) === UNIQUE_VIOLATION)
        throw new ConflictException(`There is a standard "${name}" already. Choose another name.`);
      throw error;
    }
  }

  async remove({ shopId }: Caller, id: string): Promise<void> {
    const gone = await this.database.inShop(shopId, (tx) =>
      tx.delete(ownStandards).where(eq(ownStandards.id, id)).returning({ id: ownStandards.id }),
    );
    if (gone.length === 0) throw new NotFoundException('There is no such standard; somebody may have removed it.');
  }
}
