import { Module } from '@nestjs/common';
import { JobStoreModule } from '../jobs/jobStore.module.ts';
import { WorkModule } from '../work/work.module.ts';
import { ImportsController } from './imports.controller.ts';
import { ImportsService } from './imports.service.ts';
import { StagingService } from './staging.service.ts';
import { Tables } from './tables.ts';

/** Pull files on their way into a job. */
@Module({
  imports: [JobStoreModule, WorkModule],
  controllers: [ImportsController],
  providers: [ImportsService, StagingService, Tables],
  exports: [Tables],
})
export class ImportsModule {}
