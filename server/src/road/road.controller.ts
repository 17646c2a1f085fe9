import {
  BadRequestException,
  Controller,
  HttpCode,
  Param,
  ParseUUIDPipe,
  Post,
  Query,
  UploadedFile,
  UseGuards,
  UseInterceptors,
} from '@nestjs/common';
import { FileInterceptor } from '@nestjs/platform-express';
import { ApiConsumes, ApiOkResponse, ApiTags } from '@nestjs/swagger';
import { speedsProblem } from '@prandel/core';
import { Database } from '../database/database.ts';
import { ScratchStorage, withUploads, type Upload } from '../files/uploads.ts';
import { JobStore } from '../jobs/jobStore.ts';
import { RoomForUploads } from '../operations/disk.ts';
import { Access, CurrentUser } from '../people/access.ts';
import type { Caller } from '../people/caller.ts';
import { WorkPool } from '../work/workPool.ts';
import { SpeedLogRead, SpeedsQuery } from './road.dto.ts';

const LARGEST_BYTES = 50_000_000;
const READING_S = 60;

/** Finds passes in a log of road speed; nothing is stored, what a person keeps of them becomes passes of the job. */
@ApiTags('road')
@Access({ read: 'viewer', change: 'technician' })
@Controller('api/jobs/:id/road')
export class RoadController {
  constructor(
    private readonly pool: WorkPool,
    private readonly database: Database,
    private readonly store: JobStore,
  ) {}

  /** A CSV with time and speed, or the RMC sentences of a receiver (NMEA 0183). */
  @Post('speed-log')
  @HttpCode(200)
  @ApiConsumes('multipart/form-data')
  @ApiOkResponse({ type: SpeedLogRead })
  @UseGuards(RoomForUploads)
  @UseInterceptors(
    FileInterceptor('file', {
      storage: new ScratchStorage(),
      limits: { fileSize: LARGEST_BYTES, files: 1, fields: 4 },
    }),
  )
  read(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Query() { fromKmH, toKmH }: SpeedsQuery,
    @UploadedFile() file: Upload | undefined,
  ): Promise<SpeedLogRead> {
    if (!file) throw new BadRequestException('Choose the log of a receiver, or a CSV with time and speed.');
    return withUploads([file], async () => {
      const wrong = speedsProblem(fromKmH, toKmH);
      if (wrong) throw new BadRequestException(`${wrong[0]!.toUpperCase()}${wrong.slice(1)}.`);
      await this.database.inShop(caller.shopId, (tx) => this.store.read(tx, id, false));
      return this.pool.run(caller.shopId, 'speedPasses', () => ({ input: { path: file.path, fromKmH, toKmH } }), {
        timeoutS: READING_S,
      });
    });
  }
}
