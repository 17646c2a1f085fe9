import { ApiFile } from '../http/answers.ts';
import { Controller, Get, Param, ParseIntPipe, ParseUUIDPipe, Query, StreamableFile } from '@nestjs/common';
import { ApiQuery, ApiTags } from '@nestjs/swagger';
import { JobsService } from '../jobs/jobs.service.ts';
import { Access, CurrentUser } from '../people/access.ts';
import type { Caller } from '../people/caller.ts';
import { planCalendar } from './planCalendar.ts';

/** The day's plan for a calendar (iCalendar, RFC 5545). */
@ApiTags('plan')
@Access({ read: 'viewer', change: 'technician', scopes: ['read-jobs'] })
@Controller('api/jobs')
export class PlanController {
  constructor(private readonly jobs: JobsService) {}

  @Get(':id/plan.ics')
  @ApiFile('text/calendar')
  @ApiQuery({
    name: 'day',
    required: false,
    type: Number,
    description: 'One day of the plan, from 1; all where absent.',
  })
  async calendar(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Query('day', new ParseIntPipe({ optional: true })) day?: number,
  ): Promise<StreamableFile> {
    const { job } = await this.jobs.read(caller, id, false);
    return new StreamableFile(Buffer.from(planCalendar(job, id, day ?? null)), {
      type: 'text/calendar; charset=utf-8',
      disposition: `attachment; filename="${job.id.replace(/[^A-Za-z0-9._-]+/g, '-') || 'plan'}.ics"`,
    });
  }
}
