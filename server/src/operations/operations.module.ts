import { Module } from '@nestjs/common';
import { LiveModule } from '../live/live.module.ts';
import { HealthController } from './health.controller.ts';
import { HealthService } from './health.service.ts';
import { Housekeeping } from './housekeeping.ts';

/** Health for a monitor, and keeping house. */
@Module({ imports: [LiveModule], controllers: [HealthController], providers: [HealthService, Housekeeping] })
export class OperationsModule {}
