import { Controller, Get, Module } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { ApiCoreAnswer } from '../http/answers.ts';
import type { TrendsAnswer } from '../http/coreAnswers.ts';
import { Access, CurrentUser } from '../people/access.ts';
import type { Caller } from '../people/caller.ts';
import { TrendsService } from './trends.service.ts';

/** How the shop's days go. */
@ApiTags('trends')
@Access({ read: 'viewer' })
@Controller('api/trends')
class TrendsController {
  constructor(private readonly trends: TrendsService) {}

  @Get()
  @ApiCoreAnswer('TrendsAnswer')
  read(@CurrentUser() caller: Caller): Promise<TrendsAnswer> {
    return this.trends.read(caller);
  }
}

/** What a lead looks at. */
@Module({ controllers: [TrendsController], providers: [TrendsService] })
export class TrendsModule {}
