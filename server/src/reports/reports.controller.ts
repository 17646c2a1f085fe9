import { ApiCoreAnswer, ApiFile } from '../http/answers.ts';
import { Controller, Get, Param, ParseUUIDPipe, Query, Res } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import type { Response } from 'express';
import { JobsService } from '../jobs/jobs.service.ts';
import { Access, CurrentUser } from '../people/access.ts';
import type { Caller } from '../people/caller.ts';
import { reportHeaders } from '../security/headers.ts';
import { ReportsService } from './reports.service.ts';
import { Judging } from '../work/judging.ts';

/** The customer's sheet: self-contained HTML, and the same numbers as JSON. */
@ApiTags('reports')
@Access({ read: 'viewer', change: 'technician', scopes: ['read-jobs'] })
@Controller('api/jobs/:id')
export class ReportsController {
  constructor(
    private readonly reports: ReportsService,
    private readonly jobs: JobsService,
    private readonly judging: Judging,
  ) {}

  @Get('report.html')
  @ApiFile('text/html')
  async html(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Res() response: Response,
    @Query('download') download?: string,
  ): Promise<void> {
    const html = await this.reports.html(caller, id);
    if (download)
      response.setHeader(
        'Content-Disposition',
        `attachment; filename="report-${await this.#fileName(caller, id)}.html"`,
      );
    reportHeaders(response);
    // Mostly fonts, which get no smaller: compressing it anew takes longer than sending it.
    response.setHeader('Cache-Control', 'private, no-cache, no-transform');
    response.type('text/html').send(html);
  }

  @Get('report.json')
  @ApiCoreAnswer('ReportNumbers')
  async json(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Res() response: Response,
  ): Promise<void> {
    const body = await this.judging.reportNumbers(caller, this.jobs.beingRead(caller, id));
    response
      .type('application/json')
      .send(JSON.stringify(body, (_, v: unknown) => (typeof v === 'number' && !Number.isFinite(v) ? null : v)));
  }

  async #fileName(caller: Caller, id: string): Promise<string> {
    const { job } = await this.jobs.read(caller, id, false);
    return job.id.replace(/[^A-Za-z0-9._-]+/g, '-').slice(0, 60) || 'job';
  }
}
