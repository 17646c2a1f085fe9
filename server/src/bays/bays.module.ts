import { Module } from '@nestjs/common';
import { JobStoreModule } from '../jobs/jobStore.module.ts';
import { LiveModule } from '../live/live.module.ts';
import { WorkModule } from '../work/work.module.ts';
import { ImportsModule } from '../imports/imports.module.ts';
import { BayFilesController } from './files/bayFiles.controller.ts';
import { BayFilesService } from './files/bayFiles.service.ts';
import { BayHistoryModule } from './bayHistory.module.ts';
import { BaysController } from './bays.controller.ts';
import { BaysService } from './bays.service.ts';
import { CoastDownController } from './coastDown.controller.ts';
import { QuarantineService } from './quarantine.service.ts';
import { RunSheet } from './runSheet.ts';

/** Bays with their instruments, and what is done in them. */
@Module({
  imports: [BayHistoryModule, ImportsModule, JobStoreModule, LiveModule, WorkModule],
  controllers: [BaysController, BayFilesController, CoastDownController],
  providers: [BayFilesService, BaysService, RunSheet, QuarantineService],
})
export class BaysModule {}
