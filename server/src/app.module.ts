import { Module } from '@nestjs/common';
import { APP_GUARD, APP_INTERCEPTOR } from '@nestjs/core';
import { ServeStaticModule } from '@nestjs/serve-static';
import { BaselineController } from './baseline/baseline.controller.ts';
import { BaysController } from './bays/bays.controller.ts';
import { CoastDownController } from './bays/coastDown.controller.ts';
import { QuarantineService } from './bays/quarantine.service.ts';
import { RunSheet } from './bays/runSheet.ts';
import { BenchController } from './bench/bench.controller.ts';
import { DatabaseModule } from './database/database.module.ts';
import { ImportsController } from './imports/imports.controller.ts';
import { ImportsService } from './imports/imports.service.ts';
import { WEB_FOLDER } from './http/pages.ts';
import { JobsController } from './jobs/jobs.controller.ts';
import { JobsService } from './jobs/jobs.service.ts';
import { JobStore } from './jobs/jobStore.ts';
import { LiveBays } from './live/liveBays.ts';
import { LiveChannel } from './live/liveChannel.ts';
import { BayRelay } from './live/relay.ts';
import { PackagesController } from './packages/packages.controller.ts';
import { AccessGuard } from './people/access.ts';
import { AccessTokensController } from './people/accessTokens.controller.ts';
import { AccessTokensService } from './people/accessTokens.service.ts';
import { ActorInterceptor } from './people/actor.ts';
import { OneTimeLinksService } from './people/oneTimeLinks.service.ts';
import { PeopleController } from './people/people.controller.ts';
import { PeopleService } from './people/people.service.ts';
import { SessionsService } from './people/sessions.service.ts';
import { TeamController } from './people/team.controller.ts';
import { TeamService } from './people/team.service.ts';
import { SecurityLog } from './security/securityLog.ts';
import { SignInLimits } from './security/signInLimits.ts';
import { PhotosController } from './photos/photos.controller.ts';
import { PhotosService } from './photos/photos.service.ts';
import { PlanController } from './plan/plan.controller.ts';
import { ReadingsController } from './readings/readings.controller.ts';
import { RecordsController } from './records/records.controller.ts';
import { StagingService } from './imports/staging.service.ts';
import { Tables } from './imports/tables.ts';
import { RoomForUploads } from './operations/disk.ts';
import { HealthController, HealthService } from './operations/health.controller.ts';
import { Housekeeping } from './operations/housekeeping.ts';
import { Tasks, TasksController } from './work/progress.ts';
import { Judging } from './work/judging.ts';
import { ProjectionsService } from './projections/projections.service.ts';
import { ProjectionQueue } from './projections/queue.ts';
import { WorkPool } from './work/workPool.ts';
import { ReportsController } from './reports/reports.controller.ts';

@Module({
  imports: [
    DatabaseModule,
    ServeStaticModule.forRoot({
      rootPath: WEB_FOLDER,
      exclude: ['/api/{*rest}', '/assets/{*rest}'],
      serveStaticOptions: { fallthrough: true },
    }),
  ],
  controllers: [
    PeopleController,
    TeamController,
    AccessTokensController,
    JobsController,
    ImportsController,
    PackagesController,
    ReportsController,
    BaysController,
    CoastDownController,
    RecordsController,
    PlanController,
    PhotosController,
    BaselineController,
    ReadingsController,
    BenchController,
    TasksController,
    HealthController,
  ],
  providers: [
    PeopleService,
    SessionsService,
    SignInLimits,
    SecurityLog,
    AccessTokensService,
    OneTimeLinksService,
    TeamService,
    { provide: APP_GUARD, useClass: AccessGuard },
    { provide: APP_INTERCEPTOR, useClass: ActorInterceptor },
    JobStore,
    JobsService,
    ImportsService,
    StagingService,
    PhotosService,
    LiveBays,
    LiveChannel,
    BayRelay,
    RunSheet,
    QuarantineService,
    WorkPool,
    Judging,
    ProjectionQueue,
    ProjectionsService,
    Tables,
    Tasks,
    RoomForUploads,
    HealthService,
    Housekeeping,
  ],
})
export class AppModule {}
