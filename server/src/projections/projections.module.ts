import { Module } from '@nestjs/common';
import { APP_INTERCEPTOR } from '@nestjs/core';
import { ChangedJobs } from './changedJobs.ts';
import { JobStoreModule } from '../jobs/jobStore.module.ts';
import { WorkModule } from '../work/work.module.ts';
import { ProjectionsService } from './projections.service.ts';
import { ProjectionQueue } from './queue.ts';

/** What lists show of jobs, worked out by a queue. */
@Module({
  imports: [JobStoreModule, WorkModule],
  providers: [{ provide: APP_INTERCEPTOR, useClass: ChangedJobs }, ProjectionQueue, ProjectionsService],
  exports: [ProjectionsService],
})
export class ProjectionsModule {}
