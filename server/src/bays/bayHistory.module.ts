import { Module } from '@nestjs/common';
import { WorkModule } from '../work/work.module.ts';
import { BayHistory } from './bayHistory.ts';

/** What bays have learned of themselves. */
@Module({ imports: [WorkModule], providers: [BayHistory], exports: [BayHistory] })
export class BayHistoryModule {}
