import { Body, Controller, Get, HttpCode, Param, ParseUUIDPipe, Patch, Post, Query } from '@nestjs/common';
import { ApiCreatedResponse, ApiOkResponse, ApiTags } from '@nestjs/swagger';
import { Access, CurrentUser } from '../people/access.ts';
import type { Caller } from '../people/caller.ts';
import {
  NewRecord,
  RecordAdded,
  RecordEdit,
  RecordPage,
  RecordRow,
  RecordSearch,
  VehicleHeatAnswer,
} from './records.dto.ts';
import { RecordsService } from './records.service.ts';

/** What a shop reuses from job to job: customers, vehicles, parts, model cards, house methods. */
@ApiTags('records')
@Access({ read: 'viewer', change: 'technician' })
@Controller('api/records')
export class RecordsController {
  constructor(private readonly records: RecordsService) {}

  /** Records of a kind by name; `q` keeps those that hold words beginning so. */
  @Get()
  @ApiOkResponse({ type: RecordPage })
  list(@CurrentUser() caller: Caller, @Query() search: RecordSearch): Promise<RecordPage> {
    return this.records.list(caller, search);
  }

  @Get(':kind/:id')
  @ApiOkResponse({ type: RecordRow })
  one(
    @CurrentUser() caller: Caller,
    @Param('kind') kind: string,
    @Param('id', ParseUUIDPipe) id: string,
  ): Promise<RecordRow> {
    return this.records.one(caller, kind, id);
  }

  @Post()
  @ApiCreatedResponse({ type: RecordAdded })
  add(@CurrentUser() caller: Caller, @Body() body: NewRecord): Promise<RecordAdded> {
    return this.records.add(caller, body);
  }

  /** Changes the fields that are named; the others stay as they are. */
  @Patch(':kind/:id')
  @HttpCode(204)
  edit(
    @CurrentUser() caller: Caller,
    @Param('kind') kind: string,
    @Param('id', ParseUUIDPipe) id: string,
    @Body() body: RecordEdit,
  ): Promise<void> {
    return this.records.edit(caller, kind, id, body);
  }

  /** What a car loses per degree of start temperature: it explains and helps to plan pauses, no verdict uses it. */
  @Get('vehicle/:id/heat')
  @ApiOkResponse({ type: VehicleHeatAnswer })
  heat(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string): Promise<VehicleHeatAnswer> {
    return this.records.heat(caller, id);
  }
}
