import { ApiFile } from '../http/answers.ts';
import { Controller, Get, NotFoundException, Param, ParseUUIDPipe, StreamableFile } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { planDay, planRequestOf, type DayBlock, type Job } from '@prandel/core';
import { createEvents, type EventAttributes } from 'ics';
import { JobsService } from '../jobs/jobs.service.ts';
import { Access, CurrentUser } from '../people/access.ts';
import type { Caller } from '../people/caller.ts';

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

const WORDS: Record<DayBlock['kind'], string> = {
  pulls: 'Pulls on',
  fitting: 'Fit',
  hold: 'Hold',
  'cool-down': 'Cool down before',
};

/** @throws NotFoundException when nobody planned the day */
export function planCalendar(job: Job, uid: string): string {
  const startAt = job.day?.plan.startAt;
  if (!startAt) throw new NotFoundException('This day has no plan yet. Give it a start on the plan page.');
  const { blocks } = planDay(job.day.plan.shape, planRequestOf(job));
  const events = blocks.map((block, i): EventAttributes => {
    const label = job.setups.find((s) => s.id === block.setup)?.label ?? block.setup;
    return {
      uid: `${uid}-${i}@prandel`,
      title: `${WORDS[block.kind]} ${block.setup} (${label}), ${job.vehicle.label || job.id}`,
      description: block.kind === 'pulls' ? `${block.pullMin.length} pulls. ${job.title}` : job.title,
      start: Date.parse(startAt) + block.fromMin * 60_000,
      startInputType: 'utc',
      startOutputType: 'utc',
      end: Date.parse(startAt) + block.toMin * 60_000,
      endInputType: 'utc',
      endOutputType: 'utc',
      productId: 'Prandel',
    };
  });
  const { error, value } = createEvents(events);
  if (error || !value) throw error ?? new Error('the calendar could not be written');
  return value;
}
