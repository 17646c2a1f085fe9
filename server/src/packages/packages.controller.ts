import {
  Controller,
  Get,
  Param,
  ParseUUIDPipe,
  Post,
  Res,
  StreamableFile,
  UploadedFile,
  UseGuards,
  UseInterceptors,
  BadRequestException,
} from '@nestjs/common';
import { FileInterceptor } from '@nestjs/platform-express';
import { ApiCreatedResponse, ApiConsumes, ApiTags } from '@nestjs/swagger';
import { ApiFile, Made } from '../http/answers.ts';
import { LARGEST_FILE_BYTES } from '@prandel/formats';
import type { Response } from 'express';
import { ScratchStorage, withUploads, type Upload } from '../files/uploads.ts';
import { RoomForUploads } from '../operations/disk.ts';
import { ApiTask, TaskQuery, Tasks } from '../work/progress.ts';
import { Access, CurrentUser } from '../people/access.ts';
import type { Caller } from '../people/caller.ts';
import { PackagesService } from './packages.service.ts';

/** Whole jobs in and out as job packages. */
@ApiTags('packages')
@Access({ read: 'viewer', change: 'technician', scopes: ['read-jobs'] })
@Controller('api')
export class PackagesController {
  constructor(
    private readonly packages: PackagesService,
    private readonly tasks: Tasks,
  ) {}

  @Post('packages')
  @ApiTask()
  @ApiCreatedResponse({ type: Made })
  @ApiConsumes('multipart/form-data')
  @UseGuards(RoomForUploads)
  @UseInterceptors(
    FileInterceptor('file', {
      storage: new ScratchStorage(),
      limits: { fileSize: LARGEST_FILE_BYTES, files: 1, fields: 10 },
    }),
  )
  take(
    @CurrentUser() caller: Caller,
    @UploadedFile() file: Upload | undefined,
    @Res({ passthrough: true }) response: Response,
    @TaskQuery() task?: string,
  ): Promise<Made> {
    if (!file) throw new BadRequestException('Choose a job package (a ZIP file).');
    return withUploads([file], () =>
      this.tasks.run(caller.shopId, task, response, (own) => this.packages.take(caller, file, own)),
    );
  }

  @Get('jobs/:id/package')
  @ApiFile('application/zip')
  async give(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string): Promise<StreamableFile> {
    const { name, content } = await this.packages.give(caller, id);
    return new StreamableFile(content, { type: 'application/zip', disposition: `attachment; filename="${name}"` });
  }
}
