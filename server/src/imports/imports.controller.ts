import {
  Body,
  Controller,
  Get,
  Param,
  ParseUUIDPipe,
  Post,
  StreamableFile,
  UploadedFiles,
  UseGuards,
  UseInterceptors,
} from '@nestjs/common';
import { FilesInterceptor } from '@nestjs/platform-express';
import { ApiConsumes, ApiCreatedResponse, ApiTags, PickType } from '@nestjs/swagger';
import { LARGEST_FILE_BYTES } from '@prandel/formats';
import { Asker, SignedInGuard } from '../people/people.controller.ts';
import type { Caller } from '../people/people.service.ts';
import { ImportRequest, PreviewPull, StagedFile } from './imports.dto.ts';
import { ImportsService } from './imports.service.ts';

class PreviewRequest extends PickType(ImportRequest, ['fileIds', 'columns'] as const) {}

@ApiTags('imports')
@UseGuards(SignedInGuard)
@Controller('api/jobs/:id')
export class ImportsController {
  constructor(private readonly imports: ImportsService) {}

  @Post('staged-files')
  @ApiConsumes('multipart/form-data')
  @ApiCreatedResponse({ type: [StagedFile] })
  @UseInterceptors(FilesInterceptor('files', 501, { limits: { fileSize: LARGEST_FILE_BYTES } }))
  stage(
    @Asker() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @UploadedFiles() uploads: { originalname: string; buffer: Buffer }[],
  ): Promise<StagedFile[]> {
    // Browsers send file names as UTF-8; multer hands them over as Latin-1.
    const named = (uploads ?? []).map((u) => ({
      name: Buffer.from(u.originalname, 'latin1').toString('utf8'),
      bytes: u.buffer,
    }));
    return this.imports.stage(caller, id, named);
  }

  @Post('import-preview')
  @ApiCreatedResponse({ type: [PreviewPull] })
  preview(
    @Asker() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Body() body: PreviewRequest,
  ): Promise<PreviewPull[]> {
    return this.imports.preview(caller, id, body);
  }

  @Post('imports')
  import(
    @Asker() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Body() body: ImportRequest,
  ): Promise<{ pulls: number }> {
    return this.imports.import(caller, id, body);
  }

  @Get('files')
  list(@Asker() caller: Caller, @Param('id', ParseUUIDPipe) id: string) {
    return this.imports.files(caller, id);
  }

  @Get('files/:file')
  async original(
    @Asker() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Param('file', ParseUUIDPipe) file: string,
  ): Promise<StreamableFile> {
    const { name, content } = await this.imports.original(caller, id, file);
    return new StreamableFile(content, {
      type: 'application/octet-stream',
      disposition: `attachment; filename*=UTF-8''${encodeURIComponent(name)}`,
    });
  }
}
