import { Module } from '@nestjs/common';
import { JobStoreModule } from '../jobs/jobStore.module.ts';
import { WorkModule } from '../work/work.module.ts';
import { DayImportService } from './day/dayImport.service.ts';
import { DayLayoutService } from './day/dayLayout.service.ts';
import { ImportsController } from './imports.controller.ts';
import { ImportsService } from './imports.service.ts';
import { StagingService } from './staging.service.ts';
import { Tables } from './tables.ts';

/** Pull files on their way into a job. */
@Module({
  imports: [JobStoreModule, WorkModule],
  controllers: [ImportsController],
  providers: [ImportsService, StagingService, DayLayoutService, DayImportService, Tables],
  exports: [Tables],
})
export class ImportsModule {}
