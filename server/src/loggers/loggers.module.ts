import { Module } from '@nestjs/common';
import { ImportsModule } from '../imports/imports.module.ts';
import { JobStoreModule } from '../jobs/jobStore.module.ts';
import { WorkModule } from '../work/work.module.ts';
import { LoggersController } from './loggers.controller.ts';
import { LoggersService } from './loggers.service.ts';

/** Records of other loggers beside the pulls of a job. */
@Module({
  imports: [ImportsModule, JobStoreModule, WorkModule],
  controllers: [LoggersController],
  providers: [LoggersService],
})
export class LoggersModule {}
