import { Controller, Get, Module } from '@nestjs/common';
import { ApiOkResponse, ApiProperty, ApiTags } from '@nestjs/swagger';
import { JobStoreModule } from '../jobs/jobStore.module.ts';
import { Access, CurrentUser } from '../people/access.ts';
import type { Caller } from '../people/caller.ts';
import { ProjectionsModule } from '../projections/projections.module.ts';
import { DemoYears } from './demoYears.ts';

class YearsProgress {
  @ApiProperty() made: number;
  @ApiProperty() of: number;
}

class YearsAnswer {
  @ApiProperty({ type: YearsProgress, nullable: true, description: 'Null: this shop is no demo.' })
  years: YearsProgress | null;
}

/** How far the demo's two years are. */
@ApiTags('operations')
@Access({ read: 'viewer' })
@Controller('api/demo-years')
class YearsController {
  constructor(private readonly years: DemoYears) {}

  @Get()
  @ApiOkResponse({ type: YearsAnswer })
  async read(@CurrentUser() { shopId }: Caller): Promise<YearsAnswer> {
    return { years: await this.years.progress(shopId) };
  }
}

/** The demo shop's two years. */
@Module({ imports: [JobStoreModule, ProjectionsModule], controllers: [YearsController], providers: [DemoYears] })
export class YearsModule {}
