import { Module } from '@nestjs/common';
import { BayHistoryModule } from '../bays/bayHistory.module.ts';
import { JobStoreModule } from '../jobs/jobStore.module.ts';
import { WorkModule } from '../work/work.module.ts';
import { PackagesController } from './packages.controller.ts';
import { PackagesService } from './packages.service.ts';

/** Whole jobs in and out as job packages. */
@Module({
  imports: [BayHistoryModule, JobStoreModule, WorkModule],
  controllers: [PackagesController],
  providers: [PackagesService],
})
export class PackagesModule {}
