import { Module } from '@nestjs/common';
import { BayHistoryModule } from '../bays/bayHistory.module.ts';
import { ProjectionsModule } from '../projections/projections.module.ts';
import { WorkModule } from '../work/work.module.ts';
import { FittedParts } from './fittedParts.ts';
import { JobStoreModule } from './jobStore.module.ts';
import { JobsController } from './jobs.controller.ts';
import { JobsService } from './jobs.service.ts';

/** Jobs: lists, edits, pulls, the evidence log. */
@Module({
  imports: [BayHistoryModule, JobStoreModule, ProjectionsModule, WorkModule],
  controllers: [JobsController],
  providers: [FittedParts, JobsService],
  exports: [FittedParts, JobsService],
})
export class JobsModule {}
