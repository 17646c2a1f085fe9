import { Module } from '@nestjs/common';
import { JobStoreModule } from '../jobs/jobStore.module.ts';
import { LiveModule } from '../live/live.module.ts';
import { ReadingsController } from './readings.controller.ts';
import { ReadingsService } from './readings.service.ts';

/** Gauges read by hand. */
@Module({ imports: [JobStoreModule, LiveModule], controllers: [ReadingsController], providers: [ReadingsService] })
export class ReadingsModule {}
