import { Body, Controller, Get, HttpCode, Param, ParseUUIDPipe, Post } from '@nestjs/common';
import { ApiOkResponse, ApiTags } from '@nestjs/swagger';
import { Access, CurrentUser } from '../people/access.ts';
import type { Caller } from '../people/caller.ts';
import { BaselineAnswer, SuspectLook } from './baseline.dto.ts';
import { BaselineService } from './baseline.service.ts';

/** A job's baseline beside what its model has shown, and the search for what makes it read low. */
@ApiTags('baseline')
@Access({ read: 'viewer', change: 'technician', scopes: ['read-jobs'] })
@Controller('api/jobs/:id')
export class BaselineController {
  constructor(private readonly baseline: BaselineService) {}

  @Get('baseline')
  @ApiOkResponse({ type: BaselineAnswer })
  standing(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string): Promise<BaselineAnswer> {
    return this.baseline.standing(caller, id);
  }

  /** Writes down what somebody found when looking at one suspect. */
  @Post('suspects')
  @HttpCode(204)
  look(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Body() body: SuspectLook,
  ): Promise<void> {
    return this.baseline.look(caller, id, body);
  }
}
