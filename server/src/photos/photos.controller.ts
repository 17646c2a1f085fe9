import { ApiFile } from '../http/answers.ts';
import {
  Controller,
  Get,
  Header,
  HttpCode,
  Param,
  ParseUUIDPipe,
  Post,
  StreamableFile,
  UploadedFiles,
  UseInterceptors,
} from '@nestjs/common';
import { FilesInterceptor } from '@nestjs/platform-express';
import { ApiConsumes, ApiTags } from '@nestjs/swagger';
import { Access, CurrentUser } from '../people/access.ts';
import type { Caller } from '../people/caller.ts';
import { LARGEST_PHOTO_BYTES, MOST_PHOTOS, PhotosService } from './photos.service.ts';

/** Photos of fittings: what the clock alone does not show. */
@ApiTags('photos')
@Access({ read: 'viewer', change: 'technician', scopes: ['read-jobs'] })
@Controller('api/jobs/:id')
export class PhotosController {
  constructor(private readonly photos: PhotosService) {}

  @Post('fittings/:startedAt/photos')
  @HttpCode(204)
  @ApiConsumes('multipart/form-data')
  @UseInterceptors(FilesInterceptor('photos', MOST_PHOTOS, { limits: { fileSize: LARGEST_PHOTO_BYTES } }))
  add(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Param('startedAt') startedAt: string,
    @UploadedFiles() uploads?: { originalname: string; buffer: Buffer }[],
  ): Promise<void> {
    const named = (uploads ?? []).map((u) => ({
      name: Buffer.from(u.originalname, 'latin1').toString('utf8'),
      bytes: u.buffer,
    }));
    return this.photos.add(caller, id, startedAt, named);
  }

  @Get('photos/:file')
  @ApiFile('image/jpeg', 'image/png', 'image/webp')
  @Header('X-Content-Type-Options', 'nosniff')
  @Header('Cache-Control', 'private, max-age=31536000, immutable')
  async show(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Param('file') file: string,
  ): Promise<StreamableFile> {
    const { content, type } = await this.photos.read(caller, id, file);
    return new StreamableFile(content, { type, disposition: 'inline' });
  }
}
