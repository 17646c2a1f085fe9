import { Module } from '@nestjs/common';
import { JobsModule } from '../jobs/jobs.module.ts';
import { PlanController } from './plan.controller.ts';

/** The day’s plan for a calendar. */
@Module({ imports: [JobsModule], controllers: [PlanController] })
export class PlanModule {}
