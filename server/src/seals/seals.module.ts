import { Module } from '@nestjs/common';
import { JobStoreModule } from '../jobs/jobStore.module.ts';
import { JobsModule } from '../jobs/jobs.module.ts';
import { SecurityLog } from '../security/securityLog.ts';
import { WorkModule } from '../work/work.module.ts';
import { SealsController } from './seals.controller.ts';
import { SealsService } from './seals.service.ts';
import { SharedController } from './shared.controller.ts';
import { SharesService } from './shares.service.ts';
import { ShopKeysController } from './shopKeys.controller.ts';
import { ShopKeys } from './shopKeys.ts';

/** Sealing jobs, the key for it, and links that show what was sealed. */
@Module({
  imports: [JobsModule, JobStoreModule, WorkModule],
  controllers: [SealsController, SharedController, ShopKeysController],
  providers: [SealsService, SharesService, ShopKeys, SecurityLog],
  exports: [ShopKeys],
})
export class SealsModule {}
