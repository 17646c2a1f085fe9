import { Body, Controller, Delete, Get, HttpCode, Param, ParseUUIDPipe, Post, Req } from '@nestjs/common';
import { ApiCreatedResponse, ApiNoContentResponse, ApiOkResponse, ApiTags } from '@nestjs/swagger';
import type { Request } from 'express';
import { Access, CurrentUser } from '../people/access.ts';
import type { Caller } from '../people/caller.ts';
import { MadeShareLink, NewShareLink, Reopening, SealAnswer } from './seals.dto.ts';
import { SealsService } from './seals.service.ts';
import { SharesService } from './shares.service.ts';

/** Seals of a job, and links that show them to others. */
@ApiTags('seals')
@Access({ read: 'viewer', change: 'technician', scopes: ['read-jobs'] })
@Controller('api/jobs/:id/seals')
export class SealsController {
  constructor(
    private readonly seals: SealsService,
    private readonly shares: SharesService,
  ) {}

  @Get()
  @ApiOkResponse({ type: [SealAnswer] })
  list(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string): Promise<SealAnswer[]> {
    return this.seals.list(caller, id);
  }

  /** Seals the job: from then on nothing of it can be changed. */
  @Post()
  @HttpCode(204)
  @ApiNoContentResponse()
  seal(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string, @Req() request: Request): Promise<void> {
    return this.seals.seal(caller, id, `${request.protocol}://${request.get('host')}/verify`);
  }

  @Post('reopen')
  @HttpCode(204)
  @ApiNoContentResponse()
  reopen(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Body() { reason }: Reopening,
  ): Promise<void> {
    return this.seals.reopen(caller, id, reason);
  }

  @Post(':seal/links')
  @ApiCreatedResponse({ type: MadeShareLink })
  share(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Param('seal', ParseUUIDPipe) seal: string,
    @Body() body: NewShareLink,
  ): Promise<MadeShareLink> {
    return this.shares.make(caller, id, seal, body);
  }

  @Delete('links/:link')
  @HttpCode(204)
  @ApiNoContentResponse()
  withdraw(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Param('link', ParseUUIDPipe) link: string,
  ): Promise<void> {
    return this.shares.withdraw(caller, id, link);
  }
}
