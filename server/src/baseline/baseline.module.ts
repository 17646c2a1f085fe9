import { Module } from '@nestjs/common';
import { JobStoreModule } from '../jobs/jobStore.module.ts';
import { ProjectionsModule } from '../projections/projections.module.ts';
import { WorkModule } from '../work/work.module.ts';
import { BaselineController } from './baseline.controller.ts';
import { BaselineService } from './baseline.service.ts';

/** A job’s baseline beside its model. */
@Module({
  imports: [JobStoreModule, ProjectionsModule, WorkModule],
  controllers: [BaselineController],
  providers: [BaselineService],
})
export class BaselineModule {}
