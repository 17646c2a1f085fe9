import { Readable } from 'node:stream';
import {
  Body,
  Controller,
  Get,
  HttpCode,
  Param,
  ParseUUIDPipe,
  Post,
  Res,
  StreamableFile,
  UploadedFiles,
  UseGuards,
  UseInterceptors,
} from '@nestjs/common';
import { FilesInterceptor } from '@nestjs/platform-express';
import { ApiConsumes, ApiCreatedResponse, ApiOkResponse, ApiTags, PickType } from '@nestjs/swagger';
import { LARGEST_FILE_BYTES } from '@prandel/formats';
import type { Response } from 'express';
import { ScratchStorage, withUploads, type Upload } from '../files/uploads.ts';
import { ApiFile } from '../http/answers.ts';
import { RoomForUploads } from '../operations/disk.ts';
import { Access, CurrentUser } from '../people/access.ts';
import type { Caller } from '../people/caller.ts';
import { DayImportRequest, DayLayout, DayLayoutRequest, ShapeSaid } from './day/day.dto.ts';
import { DayImportService } from './day/dayImport.service.ts';
import { DayLayoutService } from './day/dayLayout.service.ts';
import { Imported, ImportRequest, MOST_FILES, OriginalFile, PreviewPull, StagedFile } from './imports.dto.ts';
import { ImportsService } from './imports.service.ts';
import { StagingService } from './staging.service.ts';
import { ApiTask, TaskQuery, Tasks } from '../work/progress.ts';

class PreviewRequest extends PickType(ImportRequest, ['fileIds', 'columns'] as const) {}

@ApiTags('imports')
@Access({ read: 'viewer', change: 'technician', scopes: ['read-jobs', 'upload-to-bay'] })
@Controller('api/jobs/:id')
export class ImportsController {
  constructor(
    private readonly imports: ImportsService,
    private readonly staging: StagingService,
    private readonly days: DayLayoutService,
    private readonly dayImports: DayImportService,
    private readonly tasks: Tasks,
  ) {}

  @Post('staged-files')
  @ApiTask()
  @ApiConsumes('multipart/form-data')
  @ApiCreatedResponse({ type: [StagedFile] })
  @UseGuards(RoomForUploads)
  @UseInterceptors(
    FilesInterceptor('files', MOST_FILES + 1, {
      storage: new ScratchStorage(),
      limits: { fileSize: LARGEST_FILE_BYTES, files: MOST_FILES + 1, fields: 10, parts: MOST_FILES + 20 },
    }),
  )
  stage(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @UploadedFiles() uploads: Upload[] | undefined,
    @Res({ passthrough: true }) response: Response,
    @TaskQuery() task?: string,
  ): Promise<StagedFile[]> {
    const files = uploads ?? [];
    return withUploads(files, () =>
      this.tasks.run(caller.shopId, task, response, (own) => this.staging.stage(caller, id, files, own)),
    );
  }

  @Post('import-preview')
  @ApiTask()
  @ApiCreatedResponse({ type: [PreviewPull] })
  preview(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Body() body: PreviewRequest,
    @Res({ passthrough: true }) response: Response,
    @TaskQuery() task?: string,
  ): Promise<PreviewPull[]> {
    return this.tasks.run(caller.shopId, task, response, (own) => this.imports.preview(caller, id, body, own));
  }

  @Post('imports')
  @ApiTask()
  @ApiCreatedResponse({ type: Imported })
  import(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Body() body: ImportRequest,
    @Res({ passthrough: true }) response: Response,
    @TaskQuery() task?: string,
  ): Promise<Imported> {
    return this.tasks.run(caller.shopId, task, response, (own) => this.imports.import(caller, id, body, own));
  }

  @Post('day-layout')
  @ApiTask()
  @ApiCreatedResponse({ type: DayLayout })
  layOut(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Body() body: DayLayoutRequest,
    @Res({ passthrough: true }) response: Response,
    @TaskQuery() task?: string,
  ): Promise<DayLayout> {
    return this.tasks.run(caller.shopId, task, response, (own) => this.days.layOut(caller, id, body, own));
  }

  @Post('day-imports')
  @ApiTask()
  @ApiCreatedResponse({ type: Imported })
  importDay(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Body() body: DayImportRequest,
    @Res({ passthrough: true }) response: Response,
    @TaskQuery() task?: string,
  ): Promise<Imported> {
    return this.tasks.run(caller.shopId, task, response, (own) => this.dayImports.import(caller, id, body, own));
  }

  /** Keeps what is said of a kind of files for the bay of the job. */
  @Post('shapes')
  @HttpCode(204)
  shape(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string, @Body() body: ShapeSaid): Promise<void> {
    return this.dayImports.remember(caller, id, body);
  }

  @Get('files')
  @ApiOkResponse({ type: [OriginalFile] })
  list(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string): Promise<OriginalFile[]> {
    return this.imports.files(caller, id);
  }

  @Get('files/:file')
  @ApiFile('application/octet-stream')
  async original(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Param('file', ParseUUIDPipe) file: string,
  ): Promise<StreamableFile> {
    const { name, size, pieces } = await this.imports.original(caller, id, file);
    return new StreamableFile(Readable.from(pieces), {
      length: size,
      type: 'application/octet-stream',
      disposition: `attachment; filename*=UTF-8''${encodeURIComponent(name)}`,
    });
  }
}
