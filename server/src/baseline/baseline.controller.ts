import { Controller, Get, Param, ParseUUIDPipe } from '@nestjs/common';
import { ApiOkResponse, ApiTags } from '@nestjs/swagger';
import { Access, CurrentUser } from '../people/access.ts';
import type { Caller } from '../people/caller.ts';
import { BaselineAnswer } from './baseline.dto.ts';
import { BaselineService } from './baseline.service.ts';

/** A job's baseline beside what its model has shown. */
@ApiTags('baseline')
@Access({ read: 'viewer', scopes: ['read-jobs'] })
@Controller('api/jobs/:id')
export class BaselineController {
  constructor(private readonly baseline: BaselineService) {}

  @Get('baseline')
  @ApiOkResponse({ type: BaselineAnswer })
  standing(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string): Promise<BaselineAnswer> {
    return this.baseline.standing(caller, id);
  }
}
