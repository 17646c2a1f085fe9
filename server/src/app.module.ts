import { Module } from '@nestjs/common';
import { APP_GUARD, APP_INTERCEPTOR } from '@nestjs/core';
import { ServeStaticModule } from '@nestjs/serve-static';
import { DatabaseModule } from './database/database.module.ts';
import { cacheForGood, WEB_FOLDER } from './http/pages.ts';
import { AccessGuard } from './people/access.ts';
import { ActorInterceptor } from './people/actor.ts';
import { PeopleModule } from './people/people.module.ts';
import { BaysModule } from './bays/bays.module.ts';
import { JobsModule } from './jobs/jobs.module.ts';
import { FaultsModule } from './faults/faults.module.ts';
import { FindModule } from './find/find.module.ts';
import { ModelsModule } from './models/models.module.ts';
import { ImportsModule } from './imports/imports.module.ts';
import { LoggersModule } from './loggers/loggers.module.ts';
import { RoadModule } from './road/road.module.ts';
import { PackagesModule } from './packages/packages.module.ts';
import { MoneyModule } from './money/money.module.ts';
import { StandardsModule } from './standards/standards.module.ts';
import { ReportsModule } from './reports/reports.module.ts';
import { RecordsModule } from './records/records.module.ts';
import { PlanModule } from './plan/plan.module.ts';
import { PhotosModule } from './photos/photos.module.ts';
import { BaselineModule } from './baseline/baseline.module.ts';
import { ReadingsModule } from './readings/readings.module.ts';
import { BayChartsModule } from './bayCharts/bayCharts.module.ts';
import { BenchModule } from './bench/bench.module.ts';
import { OperationsModule } from './operations/operations.module.ts';
import { SealsModule } from './seals/seals.module.ts';
import { ShelfModule } from './shelf/shelf.module.ts';
import { TrendsModule } from './trends/trends.module.ts';
import { YearsModule } from './years/years.module.ts';

/** The server: one module a feature, each of which names what it needs. */
@Module({
  imports: [
    MoneyModule,
    StandardsModule,
    DatabaseModule,
    ServeStaticModule.forRoot({
      rootPath: WEB_FOLDER,
      exclude: ['/api/{*rest}', '/assets/{*rest}'],
      serveStaticOptions: { fallthrough: true, setHeaders: cacheForGood },
    }),
    PeopleModule,
    BaysModule,
    JobsModule,
    ImportsModule,
    LoggersModule,
    RoadModule,
    PackagesModule,
    ReportsModule,
    RecordsModule,
    PlanModule,
    PhotosModule,
    BaselineModule,
    ReadingsModule,
    BenchModule,
    OperationsModule,
    SealsModule,
    ShelfModule,
    BayChartsModule,
    FaultsModule,
    FindModule,
    ModelsModule,
    TrendsModule,
    YearsModule,
  ],
  providers: [
    { provide: APP_GUARD, useClass: AccessGuard },
    { provide: APP_INTERCEPTOR, useClass: ActorInterceptor },
  ],
})
export class AppModule {}
