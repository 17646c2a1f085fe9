import { Module } from '@nestjs/common';
import { JobStoreModule } from '../jobs/jobStore.module.ts';
import { WorkModule } from '../work/work.module.ts';
import { ProjectionsService } from './projections.service.ts';
import { ProjectionQueue } from './queue.ts';

/** What lists show of jobs, worked out by a queue. */
@Module({
  imports: [JobStoreModule, WorkModule],
  providers: [ProjectionQueue, ProjectionsService],
  exports: [ProjectionsService],
})
export class ProjectionsModule {}
