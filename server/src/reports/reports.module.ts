import { Module } from '@nestjs/common';
import { JobsModule } from '../jobs/jobs.module.ts';
import { WorkModule } from '../work/work.module.ts';
import { ReportsController } from './reports.controller.ts';
import { ReportsService } from './reports.service.ts';

/** The customer’s sheet. */
@Module({ imports: [JobsModule, WorkModule], controllers: [ReportsController], providers: [ReportsService] })
export class ReportsModule {}
