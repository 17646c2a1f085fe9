import { Module } from '@nestjs/common';
import { JobStoreModule } from '../jobs/jobStore.module.ts';
import { PhotosController } from './photos.controller.ts';
import { PhotosService } from './photos.service.ts';

/** Photos of fittings. */
@Module({ imports: [JobStoreModule], controllers: [PhotosController], providers: [PhotosService] })
export class PhotosModule {}
