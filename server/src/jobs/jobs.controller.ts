import { EvidenceLog } from '../evidence/evidence.dto.ts';
import { ApiCoreAnswer, ApiFile } from '../http/answers.ts';
import {
  Body,
  Controller,
  Delete,
  Get,
  Header,
  HttpCode,
  Param,
  ParseUUIDPipe,
  Patch,
  Post,
  Query,
  Res,
  StreamableFile,
} from '@nestjs/common';
import { ApiCreatedResponse, ApiOkResponse, ApiTags } from '@nestjs/swagger';
import type { Response } from 'express';
import { framesDocument } from '@prandel/core';
import { Judging } from '../work/judging.ts';
import { Access, CurrentUser } from '../people/access.ts';
import type { Caller } from '../people/caller.ts';
import { channelFrames } from './channelFrames.ts';
import { FittedPart, FittedParts } from './fittedParts.ts';
import { DeletedJob, JobPage, JobSearch } from './jobList.dto.ts';
import { AddedSetup, AddedSetupAnswer, JobCreated, JobEdit, JobNote, NewJob, PullEdit } from './jobs.dto.ts';
import { JobsService } from './jobs.service.ts';

@ApiTags('jobs')
@Access({ read: 'viewer', change: 'technician', scopes: ['read-jobs'] })
@Controller('api/jobs')
export class JobsController {
  constructor(
    private readonly jobs: JobsService,
    private readonly judging: Judging,
    private readonly parts: FittedParts,
  ) {}

  @Get()
  @ApiOkResponse({ type: JobPage })
  list(@CurrentUser() caller: Caller, @Query() search: JobSearch): Promise<JobPage> {
    return this.jobs.list(caller, search);
  }

  @Post()
  @ApiCreatedResponse({ type: JobCreated })
  async create(@CurrentUser() caller: Caller, @Body() body: NewJob): Promise<JobCreated> {
    return { id: await this.jobs.create(caller, body) };
  }

  /** Jobs that were deleted within the last thirty days. */
  @Get('deleted')
  @ApiOkResponse({ type: [DeletedJob] })
  deleted(@CurrentUser() caller: Caller): Promise<DeletedJob[]> {
    return this.jobs.deleted(caller);
  }

  /** Deletes a job; it can be brought back for thirty days. */
  @Delete(':id')
  @HttpCode(204)
  remove(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string): Promise<void> {
    return this.jobs.remove(caller, id);
  }

  @Post(':id/restore')
  @HttpCode(204)
  restore(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string): Promise<void> {
    return this.jobs.bringBack(caller, id);
  }

  /** The job without its samples, with the version to name in an edit. */
  @Get(':id')
  @ApiCoreAnswer('JobAnswer')
  read(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string) {
    return this.jobs.read(caller, id, false);
  }

  /** Parts on the shop's record that the setups have fitted, with their bench figures. */
  @Get(':id/parts')
  @ApiOkResponse({ type: [FittedPart] })
  fitted(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string): Promise<FittedPart[]> {
    return this.parts.of(caller, id);
  }

  @Patch(':id')
  @HttpCode(204)
  edit(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string, @Body() body: JobEdit): Promise<void> {
    return this.jobs.edit(caller, id, body);
  }

  /**
   * What stands for the samples of every pull: sums from which curves of any averaging, correction and band follow, with what was
   * noticed of the pull; some 30 kB each (docs/method.md, sums; core, frameBytes).
   */
  @Get(':id/moments')
  @ApiFile('application/octet-stream')
  async moments(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Res() response: Response,
  ): Promise<void> {
    const { frames } = await this.judging.frames(caller.shopId, this.jobs.beingRead(caller, id));
    response
      .setHeader('Cache-Control', 'private, no-cache')
      .type('application/octet-stream')
      .send(Buffer.from(framesDocument(frames).buffer));
  }

  @Get(':id/channels')
  @ApiFile('application/octet-stream')
  @Header('Cache-Control', 'no-store')
  async channels(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string): Promise<StreamableFile> {
    const { job } = await this.jobs.read(caller, id, true);
    return new StreamableFile(channelFrames(job), { type: 'application/octet-stream' });
  }

  /** One more setup, also in the middle of a day: a candidate with a letter of its own. */
  @Post(':id/setups')
  @ApiCreatedResponse({ type: AddedSetupAnswer })
  async addSetup(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Body() body: AddedSetup,
  ): Promise<AddedSetupAnswer> {
    return { id: await this.jobs.addSetup(caller, id, body) };
  }

  @Patch(':id/pulls/:pull')
  @HttpCode(204)
  editPull(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Param('pull') pull: string,
    @Body() body: PullEdit,
  ): Promise<void> {
    return this.jobs.editPull(caller, id, pull, body);
  }

  /** Adds words to the evidence log, about one of its rows or about the job. */
  @Post(':id/notes')
  @HttpCode(204)
  note(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string, @Body() body: JobNote): Promise<void> {
    return this.jobs.note(caller, id, body);
  }

  @Get(':id/log')
  @ApiOkResponse({ type: EvidenceLog })
  log(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string): Promise<EvidenceLog> {
    return this.jobs.log(caller, id);
  }
}
