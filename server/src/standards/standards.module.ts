import { Module } from '@nestjs/common';
import { WorkModule } from '../work/work.module.ts';
import { StandardsController } from './standards.controller.ts';
import { StandardsService } from './standards.service.ts';

/** Correction standards of a shop's own, for sheets from elsewhere. */
@Module({ imports: [WorkModule], controllers: [StandardsController], providers: [StandardsService] })
export class StandardsModule {}
