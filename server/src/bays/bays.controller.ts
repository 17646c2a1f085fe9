import {
  Body,
  Controller,
  Delete,
  Get,
  HttpCode,
  Param,
  ParseUUIDPipe,
  Patch,
  Post,
  Query,
  Req,
  StreamableFile,
} from '@nestjs/common';
import { ApiBody, ApiCreatedResponse, ApiExtraModels, ApiOkResponse, ApiQuery, ApiTags } from '@nestjs/swagger';
import type { BayLearned, LiveSheet } from '@prandel/core';
import type { Request } from 'express';
import { LiveBays } from '../live/liveBays.ts';
import { Access, CurrentUser } from '../people/access.ts';
import type { Caller } from '../people/caller.ts';
import { ApiCoreAnswer, ApiFile, Made } from '../http/answers.ts';
import { BayEdit, NewBay, DeletedBay, PullMade, QuarantinedRecording } from './bays.dto.ts';
import { BaysService } from './bays.service.ts';
import { RollerTrace } from './coastDown.controller.ts';
import { QuarantineService } from './quarantine.service.ts';
import { RunSheet } from './runSheet.ts';
import { SHEET_ACTION_CLASSES, SHEET_ACTION_SCHEMA, SheetActionPipe, type SheetAction } from './sheetActions.dto.ts';

/** Bays with their instruments, and what is done in them. */
@ApiTags('bays')
@Access({ read: 'viewer', change: 'technician' })
@Controller('api/bays')
export class BaysController {
  constructor(
    private readonly live: LiveBays,
    private readonly bays: BaysService,
    private readonly sheet: RunSheet,
    private readonly quarantined: QuarantineService,
  ) {}

  /** Every bay with its device panel and the job that is in it. */
  @Get()
  @Access({ read: 'viewer', scopes: ['read-jobs', 'upload-to-bay'] })
  @ApiCoreAnswer('BaysAnswer')
  list(@CurrentUser() caller: Caller, @Req() request: Request) {
    return this.bays.list(caller, request);
  }

  @Post()
  @ApiCreatedResponse({ type: Made })
  add(@CurrentUser() caller: Caller, @Body() body: NewBay): Promise<Made> {
    return this.bays.add(caller, body);
  }

  /** Bays that were deleted within the last thirty days. */
  @Get('deleted')
  @ApiOkResponse({ type: [DeletedBay] })
  deleted(@CurrentUser() caller: Caller): Promise<DeletedBay[]> {
    return this.live.deleted(caller.shopId);
  }

  /** Takes a bay out of use; its days stay, and it can be brought back for thirty days. */
  @Delete(':id')
  @Access({ read: 'owner' })
  @HttpCode(204)
  remove(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string): Promise<void> {
    return this.live.retire(caller.shopId, id);
  }

  @Post(':id/restore')
  @Access({ read: 'owner' })
  @HttpCode(204)
  restore(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string): Promise<void> {
    return this.live.bringBack(caller.shopId, id);
  }

  /** Recordings of the bay that could not become pulls. */
  @Get(':id/quarantine')
  @ApiOkResponse({ type: [QuarantinedRecording] })
  quarantine(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string): Promise<QuarantinedRecording[]> {
    return this.quarantined.list(caller, id);
  }

  /** Tries again to make a pull of a quarantined recording. */
  @Post(':id/quarantine/:recording/retry')
  @HttpCode(200)
  @ApiOkResponse({ type: PullMade })
  retry(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Param('recording', ParseUUIDPipe) recording: string,
  ): Promise<PullMade> {
    return this.quarantined.retry(caller, id, recording);
  }

  /** The samples of a quarantined recording as CSV. */
  @Get(':id/quarantine/:recording/samples.csv')
  @ApiFile('text/csv')
  async samples(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Param('recording', ParseUUIDPipe) recording: string,
  ): Promise<StreamableFile> {
    const text = await this.quarantined.samples(caller, id, recording);
    return new StreamableFile(Buffer.from(text), {
      type: 'text/csv; charset=utf-8',
      disposition: `attachment; filename="recording-${recording.slice(0, 8)}.csv"`,
    });
  }

  /** Gives a quarantined recording up, samples and all. */
  @Delete(':id/quarantine/:recording')
  @HttpCode(204)
  discard(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Param('recording', ParseUUIDPipe) recording: string,
  ): Promise<void> {
    return this.quarantined.discard(caller, id, recording);
  }

  /** Changes the fields that are named; the others stay as they are. */
  @Patch(':id')
  @HttpCode(204)
  edit(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string, @Body() body: BayEdit): Promise<void> {
    return this.bays.edit(caller, id, body);
  }

  /** The run sheet as it stands now; the live channel tells what follows. */
  @Get(':id/sheet')
  @ApiCoreAnswer('SheetAnswer')
  sheetNow(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string): LiveSheet {
    return this.live.of(caller.shopId, id).sheet();
  }

  /** Speed of the rollers during the last minutes: a coast-down that was just made. */
  @Get(':id/rollers')
  @ApiOkResponse({ type: RollerTrace })
  rollers(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string): RollerTrace {
    return this.live.of(caller.shopId, id).rollersTrace();
  }

  /** What the bay has learned of its scatter, mounts and drift, and from how many jobs and return checks. */
  @Get(':id/history')
  @ApiQuery({
    name: 'exceptJob',
    required: false,
    description: 'A job that is not to teach the bay it is judged with.',
  })
  @ApiCoreAnswer('LearnedAnswer')
  history(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Query('exceptJob', new ParseUUIDPipe({ optional: true })) exceptJob?: string,
  ): Promise<BayLearned> {
    return this.bays.learned(caller, id, exceptJob);
  }

  /** Something done on the run sheet; every one is a button or a key, none needs words between pulls. */
  @Post(':id/actions')
  @HttpCode(204)
  @ApiExtraModels(...SHEET_ACTION_CLASSES)
  @ApiBody({ schema: SHEET_ACTION_SCHEMA })
  act(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Body(new SheetActionPipe()) body: SheetAction,
  ): Promise<void> {
    return this.sheet.act(caller, id, body);
  }
}
