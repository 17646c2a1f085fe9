import { Module } from '@nestjs/common';
import { JobStoreModule } from '../jobs/jobStore.module.ts';
import { WorkModule } from '../work/work.module.ts';
import { RoadController } from './road.controller.ts';

/** Road checks: passes found in logs of speed. */
@Module({ imports: [JobStoreModule, WorkModule], controllers: [RoadController] })
export class RoadModule {}
