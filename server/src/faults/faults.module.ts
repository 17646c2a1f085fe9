import { Body, Controller, Get, HttpCode, Module, Param, ParseUUIDPipe, Post } from '@nestjs/common';
import { ApiNoContentResponse, ApiTags } from '@nestjs/swagger';
import { ApiCoreAnswer } from '../http/answers.ts';
import type { SearchesAnswer } from '../http/coreAnswers.ts';
import { JobStoreModule } from '../jobs/jobStore.module.ts';
import { Access, CurrentUser } from '../people/access.ts';
import type { Caller } from '../people/caller.ts';
import { NewLook, NewSearch } from './faults.dto.ts';
import { FaultsService } from './faults.service.ts';

/** The search for what is wrong with the car of a job. */
@ApiTags('searches')
@Access({ read: 'viewer', change: 'technician', scopes: ['read-jobs'] })
@Controller('api/jobs/:id/searches')
class FaultsController {
  constructor(private readonly faults: FaultsService) {}

  @Get()
  @ApiCoreAnswer('SearchesAnswer')
  list(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string): Promise<SearchesAnswer> {
    return this.faults.list(caller, id);
  }

  @Post()
  @HttpCode(204)
  @ApiNoContentResponse()
  open(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string, @Body() body: NewSearch): Promise<void> {
    return this.faults.open(caller, id, body);
  }

  /** Writes down what a look at one suspect came to. */
  @Post('looks')
  @HttpCode(204)
  @ApiNoContentResponse()
  look(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string, @Body() body: NewLook): Promise<void> {
    return this.faults.look(caller, id, body);
  }

  /** Gives the search up. */
  @Post('close')
  @HttpCode(204)
  @ApiNoContentResponse()
  close(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string): Promise<void> {
    return this.faults.close(caller, id);
  }
}

/** Searches for what is wrong with a car. */
@Module({ imports: [JobStoreModule], controllers: [FaultsController], providers: [FaultsService] })
export class FaultsModule {}
