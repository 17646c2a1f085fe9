import { Module } from '@nestjs/common';
import { JobStoreModule } from '../jobs/jobStore.module.ts';
import { PeopleModule } from '../people/people.module.ts';
import { ProjectionsModule } from '../projections/projections.module.ts';
import { LiveBays } from './liveBays.ts';
import { LiveChannel } from './liveChannel.ts';
import { BayRelay } from './relay.ts';

/** The bays that are live in this process, and the channel to their screens. */
@Module({
  imports: [JobStoreModule, PeopleModule, ProjectionsModule],
  providers: [LiveBays, LiveChannel, BayRelay],
  exports: [LiveBays, BayRelay],
})
export class LiveModule {}
