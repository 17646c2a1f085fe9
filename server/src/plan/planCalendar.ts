import { NotFoundException } from '@nestjs/common';
import { planDay, planRequestOf, type DayBlock, type Job } from '@prandel/core';
import { createEvents, type EventAttributes } from 'ics';

const WORDS: Record<Exclude<DayBlock['kind'], 'night'>, string> = {
  pulls: 'Pulls on',
  fitting: 'Fit',
  hold: 'Hold',
  'cool-down': 'Cool down before',
};

/** The day's plan as iCalendar (RFC 5545). @throws NotFoundException when nobody planned the day */
export function planCalendar(job: Job, uid: string): string {
  const startAt = job.day?.plan.startAt;
  if (!startAt) throw new NotFoundException('This day has no plan yet. Give it a start on the plan page.');
  const { blocks } = planDay(job.day.plan.shape, planRequestOf(job));
  const events = blocks.flatMap((block, i): EventAttributes[] => {
    // A plan over several days is on the calendar of each of them.
    if (block.kind === 'night') return [];
    const label = job.setups.find((s) => s.id === block.setup)?.label ?? block.setup;
    return [
      {
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
      },
    ];
  });
  const { error, value } = createEvents(events);
  if (error || !value) throw error ?? new Error('the calendar could not be written');
  return value;
}
