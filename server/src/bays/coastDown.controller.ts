import {
  BadRequestException,
  Controller,
  HttpCode,
  Post,
  UploadedFile,
  UseGuards,
  UseInterceptors,
} from '@nestjs/common';
import { FileInterceptor } from '@nestjs/platform-express';
import { ApiConsumes, ApiOkResponse, ApiProperty, ApiTags } from '@nestjs/swagger';
import { ScratchStorage, withUploads, type Upload } from '../files/uploads.ts';
import { RoomForUploads } from '../operations/disk.ts';
import { Access, CurrentUser } from '../people/access.ts';
import type { Caller } from '../people/caller.ts';
import { WorkPool } from '../work/workPool.ts';

const LARGEST_BYTES = 20_000_000;
const READING_S = 30;

/** Speed of the rollers over time. */
export class RollerTrace {
  @ApiProperty({ type: [Number], description: 'Seconds, rising.' }) timeS: number[];
  @ApiProperty({ type: [Number], description: 'Roller speed, rad/s.' }) rollerRadS: number[];
}

/** Reads a coast-down of empty rollers from a file; nothing is stored, the loss is fitted where the bay is edited. */
@ApiTags('bays')
@Access({ read: 'viewer', change: 'technician' })
@Controller('api/coast-down')
export class CoastDownController {
  constructor(private readonly pool: WorkPool) {}

  @Post()
  @HttpCode(200)
  @ApiConsumes('multipart/form-data')
  @ApiOkResponse({ type: RollerTrace })
  @UseGuards(RoomForUploads)
  @UseInterceptors(
    FileInterceptor('file', {
      storage: new ScratchStorage(),
      limits: { fileSize: LARGEST_BYTES, files: 1, fields: 4 },
    }),
  )
  read(@CurrentUser() caller: Caller, @UploadedFile() file: Upload | undefined): Promise<RollerTrace> {
    if (!file) throw new BadRequestException('Choose the file of a coast-down.');
    return withUploads([file], () =>
      this.pool.run(caller.shopId, 'rollerTrace', () => ({ input: { path: file.path } }), { timeoutS: READING_S }),
    );
  }
}
