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
  Req,
  StreamableFile,
} from '@nestjs/common';
import { ApiBody, ApiCreatedResponse, ApiExtraModels, ApiOkResponse, ApiTags } from '@nestjs/swagger';
import { UNKNOWN_BAY, type BayLearned, type InstrumentStatus, type LiveSheet } from '@prandel/core';
import type { Request } from 'express';
import { USUAL_REGISTERS } from '@prandel/formats';
import { Database } from '../database/database.ts';
import { LiveBays } from '../live/liveBays.ts';
import { BayRelay } from '../live/relay.ts';
import { Access, CurrentUser } from '../people/access.ts';
import type { Caller } from '../people/caller.ts';
import { learnedBy } from './bayHistory.ts';
import { ApiCoreAnswer, ApiFile, Made } from '../http/answers.ts';
import { BayEdit, NewBay, DeletedBay, PullMade, QuarantinedRecording } from './bays.dto.ts';
import { RollerTrace } from './coastDown.controller.ts';
import { QuarantineService } from './quarantine.service.ts';
import { RunSheet } from './runSheet.ts';
import { SHEET_ACTION_CLASSES, SHEET_ACTION_SCHEMA, SheetActionPipe, type SheetAction } from './sheetActions.dto.ts';

const NO_INSTRUMENTS = { rollers: null, weather: null, bus: null, aux: null, registers: USUAL_REGISTERS };

/** Bays with their instruments, and what is done in them. */
@ApiTags('bays')
@Access({ read: 'viewer', change: 'technician' })
@Controller('api/bays')
export class BaysController {
  constructor(
    private readonly live: LiveBays,
    private readonly database: Database,
    private readonly sheet: RunSheet,
    private readonly quarantined: QuarantineService,
    private readonly relay: BayRelay,
  ) {}

  /** Every bay with its device panel and the job that is in it. */
  @Get()
  @Access({ read: 'viewer', scopes: ['read-jobs', 'upload-to-bay'] })
  @ApiCoreAnswer('BayListed')
  async list(@CurrentUser() caller: Caller, @Req() request: Request) {
    const own = this.live.all(caller.shopId).map((bay) => ({
      id: bay.row.id,
      label: bay.row.label,
      version: bay.row.version,
      rollers: bay.row.rollers,
      instruments: bay.row.instruments,
      status: bay.instruments satisfies InstrumentStatus[],
      job: bay.jobRowId,
      fault: this.live.faultOf(bay),
      ledElsewhere: !bay.started && this.live.faultOf(bay) === null,
    }));
    const elsewhere = own.filter((bay) => bay.ledElsewhere).map((bay) => bay.id);
    if (elsewhere.length === 0) return own;
    const listed = await this.relay.listed<(typeof own)[number]>(request, elsewhere);
    return own.map((bay) => listed.get(bay.id) ?? bay);
  }

  @Post()
  @ApiCreatedResponse({ type: Made })
  add(@CurrentUser() caller: Caller, @Body() { label, rollers, instruments }: NewBay): Promise<Made> {
    return this.live.add(caller.shopId, {
      label,
      rollers: { ...UNKNOWN_BAY, ...named(rollers), label },
      instruments: { ...NO_INSTRUMENTS, ...named(instruments) },
    });
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
    const { version, label, rollers, instruments } = body;
    return this.live.edit(caller.shopId, id, version, {
      label,
      rollers: rollers && named(rollers),
      instruments: instruments && named(instruments),
    });
  }

  /** The run sheet as it stands now; the live channel tells what follows. */
  @Get(':id/sheet')
  @ApiCoreAnswer('LiveSheet')
  sheetNow(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string): LiveSheet {
    return this.live.of(caller.shopId, id).sheet();
  }

  /** Speed of the rollers during the last minutes: a coast-down that was just made. */
  @Get(':id/rollers')
  @ApiOkResponse({ type: RollerTrace })
  rollers(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string): RollerTrace {
    return this.live.of(caller.shopId, id).rollersTrace();
  }

  /** What the bay has learned of itself: pull-to-pull SD and allowances, and from how many rounds and return checks. */
  @Get(':id/history')
  @ApiCoreAnswer('BayLearned')
  history(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string): Promise<BayLearned> {
    const { rollers } = this.live.of(caller.shopId, id).row;
    return learnedBy(this.database, caller.shopId, { bayId: id, epoch: rollers.calibrationEpoch, exceptJob: null });
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

const named = <T extends object>(body: T) =>
  Object.fromEntries(Object.entries(body).filter(([, value]) => value !== undefined)) as Partial<T>;
