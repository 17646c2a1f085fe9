import { ApiFile } from '../http/answers.ts';
import { Controller, Get, Param, ParseUUIDPipe, StreamableFile } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
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
  async calendar(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string): Promise<StreamableFile> {
    const { job } = await this.jobs.read(caller, id, false);
    return new StreamableFile(Buffer.from(planCalendar(job, id)), {
      type: 'text/calendar; charset=utf-8',
      disposition: `attachment; filename="${job.id.replace(/[^A-Za-z0-9._-]+/g, '-') || 'plan'}.ics"`,
    });
  }
}
