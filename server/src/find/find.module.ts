import { Controller, Get, Module, Query } from '@nestjs/common';
import { ApiProperty, ApiTags } from '@nestjs/swagger';
import { IsString, Length } from 'class-validator';
import { ApiCoreAnswer } from '../http/answers.ts';
import type { FindAnswer } from '../http/coreAnswers.ts';
import { Access, CurrentUser } from '../people/access.ts';
import type { Caller } from '../people/caller.ts';
import { FindService } from './find.service.ts';

class FindQuery {
  @ApiProperty({ description: 'Beginnings of words, three letters at least, that all have to be there.' })
  @IsString()
  @Length(0, 200)
  q: string;
}

/** Anything by its words. */
@ApiTags('find')
@Access({ read: 'viewer' })
@Controller('api/find')
class FindController {
  constructor(private readonly finder: FindService) {}

  @Get()
  @ApiCoreAnswer('FindAnswer')
  find(@CurrentUser() caller: Caller, @Query() { q }: FindQuery): Promise<FindAnswer> {
    return this.finder.find(caller, q);
  }
}

/** One search over everything. */
@Module({ controllers: [FindController], providers: [FindService] })
export class FindModule {}
