import {
  BadRequestException,
  Body,
  Controller,
  Delete,
  Get,
  HttpCode,
  Param,
  ParseUUIDPipe,
  Post,
  StreamableFile,
  UploadedFiles,
  UseGuards,
  UseInterceptors,
} from '@nestjs/common';
import { FilesInterceptor } from '@nestjs/platform-express';
import {
  ApiConsumes,
  ApiCreatedResponse,
  ApiOkResponse,
  ApiProperty,
  ApiPropertyOptional,
  ApiTags,
} from '@nestjs/swagger';
import { IsString, Length } from 'class-validator';
import { ScratchStorage, withUploads, type Upload } from '../../files/uploads.ts';
import { ApiFile } from '../../http/answers.ts';
import { Instant, OrNull } from '../../http/checks.ts';
import { RoomForUploads } from '../../operations/disk.ts';
import { Access, CurrentUser } from '../../people/access.ts';
import type { Caller } from '../../people/caller.ts';
import { BayFiles, TakenFile } from './bayFiles.dto.ts';
import { BayFilesService, LARGEST_WATCHED_BYTES } from './bayFiles.service.ts';

class Watching {
  @ApiProperty({ description: 'The watched folder, as its computer calls it.' })
  @IsString()
  @Length(1, 300)
  folder: string;
}

class WatchedFile {
  @ApiPropertyOptional({ nullable: true, type: String }) @OrNull() @IsString() @Length(1, 300) folder?: string | null;
  @ApiPropertyOptional({ nullable: true, type: String, format: 'date-time', description: 'When it was last changed.' })
  @OrNull()
  @Instant()
  changedAt?: string | null;
}

/** Files from the folder of the rollers' own software. */
@ApiTags('bays')
@Access({ read: 'viewer', change: 'technician', scopes: ['upload-to-bay'] })
@Controller('api/bays/:id')
export class BayFilesController {
  constructor(private readonly files: BayFilesService) {}

  /** The watched folder, its last file, and the files that wait. */
  @Get('files')
  @ApiOkResponse({ type: BayFiles })
  list(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string): Promise<BayFiles> {
    return this.files.list(caller, id);
  }

  /** Says that a folder is being watched, so that the bay knows although no file came. */
  @Post('watching')
  @HttpCode(204)
  watching(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string, @Body() { folder }: Watching): void {
    this.files.hear(caller, id, folder);
  }

  /** One file: it becomes the next pull of the open round, or waits in the tray with its reason. */
  @Post('files')
  @ApiConsumes('multipart/form-data')
  @ApiCreatedResponse({ type: TakenFile })
  @UseGuards(RoomForUploads)
  @UseInterceptors(
    FilesInterceptor('file', 1, {
      storage: new ScratchStorage(),
      limits: { fileSize: LARGEST_WATCHED_BYTES, files: 1, fields: 4, parts: 6 },
    }),
  )
  take(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @UploadedFiles() uploads: Upload[] | undefined,
    @Body() { folder = null, changedAt = null }: WatchedFile,
  ): Promise<TakenFile> {
    const files = uploads ?? [];
    return withUploads(files, () => {
      if (files.length !== 1) throw new BadRequestException('Send one file at a time, in the field "file".');
      return this.files.take(caller, id, files[0]!, folder, changedAt);
    });
  }

  /** Tries a file of the tray again. */
  @Post('tray/:file/retry')
  @ApiCreatedResponse({ type: TakenFile })
  retry(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Param('file', ParseUUIDPipe) file: string,
  ): Promise<TakenFile> {
    return this.files.retry(caller, id, file);
  }

  /** A file of the tray, as it came. */
  @Get('tray/:file')
  @ApiFile('application/octet-stream')
  async original(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Param('file', ParseUUIDPipe) file: string,
  ): Promise<StreamableFile> {
    const { name, content } = await this.files.file(caller, id, file);
    return new StreamableFile(content, {
      type: 'application/octet-stream',
      disposition: `attachment; filename*=UTF-8''${encodeURIComponent(name)}`,
    });
  }

  /** Takes a file out of the tray: it was imported, or is none of a pull. */
  @Delete('tray/:file')
  @HttpCode(204)
  discard(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Param('file', ParseUUIDPipe) file: string,
  ): Promise<void> {
    return this.files.discard(caller, id, file);
  }
}
