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
  UploadedFiles,
  UseGuards,
  UseInterceptors,
} from '@nestjs/common';
import { FilesInterceptor } from '@nestjs/platform-express';
import { ApiConsumes, ApiCreatedResponse, ApiOkResponse, ApiTags } from '@nestjs/swagger';
import { LARGEST_FILE_BYTES } from '@prandel/formats';
import { ScratchStorage, withUploads, type Upload } from '../files/uploads.ts';
import { Made } from '../http/answers.ts';
import { RoomForUploads } from '../operations/disk.ts';
import { Access, CurrentUser } from '../people/access.ts';
import type { Caller } from '../people/caller.ts';
import { NewStandard, SheetPull, StandardRow } from './standards.dto.ts';
import { StandardsService } from './standards.service.ts';

@ApiTags('standards')
@Access({ read: 'viewer', change: 'technician' })
@Controller('api/standards')
export class StandardsController {
  constructor(private readonly standards: StandardsService) {}

  @Get()
  @ApiOkResponse({ type: [StandardRow] })
  list(@CurrentUser() caller: Caller): Promise<StandardRow[]> {
    return this.standards.list(caller);
  }

  @Post()
  @ApiCreatedResponse({ type: Made })
  add(@CurrentUser() caller: Caller, @Body() body: NewStandard): Promise<Made> {
    return this.standards.add(caller, body);
  }

  /** What a curve file says of its numbers. */
  @Post('sheets')
  @ApiConsumes('multipart/form-data')
  @ApiCreatedResponse({ type: [SheetPull] })
  @UseGuards(RoomForUploads)
  @UseInterceptors(
    FilesInterceptor('file', 1, {
      storage: new ScratchStorage(),
      limits: { fileSize: LARGEST_FILE_BYTES, files: 1, fields: 2, parts: 4 },
    }),
  )
  sheet(@CurrentUser() caller: Caller, @UploadedFiles() uploads: Upload[] | undefined): Promise<SheetPull[]> {
    const files = uploads ?? [];
    return withUploads(files, () => {
      if (files.length !== 1) throw new BadRequestException('Send one file, in the field "file".');
      return this.standards.sheet(caller, files[0]!);
    });
  }

  @Delete(':id')
  @HttpCode(204)
  remove(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string): Promise<void> {
    return this.standards.remove(caller, id);
  }
}
