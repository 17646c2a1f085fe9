import { NotFoundException } from '@nestjs/common';
import { planDay, planRequestOf, type DayBlock, type Job } from '@prandel/core';
import { createEvents, type EventAttributes } from 'ics';

const WORDS: Record<Exclude<DayBlock['kind'], 'night'>, string> = {
  pulls: 'Pulls on',
  fitting: 'Fit',
  hold: 'Hold',
  'cool-down': 'Cool down before',
};

/**
 * The plan as iCalendar (RFC 5545).
 * @param day one of its days from 1; null: all of them
 * @throws NotFoundException when nobody planned the day, or the plan has no such day
 */
export function planCalendar(job: Job, uid: string, day: number | null = null): string {
  const startAt = job.day?.plan.startAt;
  if (!startAt) throw new NotFoundException('This day has no plan yet. Give it a start on the plan page.');
  const { blocks } = planDay(job.day.plan.shape, planRequestOf(job));
  let on = 1;
  const events = blocks.flatMap((block, i): EventAttributes[] => {
    if (block.kind === 'night') on += 1;
    if (block.kind === 'night' || (day !== null && on !== day)) return [];
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
  if (events.length === 0) throw new NotFoundException(`The plan has no day ${day}; it takes ${on}.`);
  const { error, value } = createEvents(events);
  if (error || !value) throw error ?? new Error('the calendar could not be written');
  return value;
}
