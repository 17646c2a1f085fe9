import { BadRequestException } from '@nestjs/common';
import type { RecordedAt } from '@prandel/formats';
import { DateTime } from 'luxon';
import type { ReadPull } from '../work/work.ts';
import type { FileRow } from './importSteps.ts';

/** A file whose pulls are about to be stored. */
export interface MappedFile {
  readonly row: FileRow;
  readonly signature: string;
  readonly pulls: readonly ReadPull[];
  readonly recorded: RecordedAt | null;
  /** Instant of its pull; null: nobody said. */
  readonly startedAt: string | null;
}

/** Files in the order of their times. @throws BadRequestException where one says none, holds several pulls, or two say the same */
export function inTime(mapped: readonly MappedFile[], timeZone: string): MappedFile[] {
  const timed = mapped.map((file) => {
    const { name } = file.row;
    if (!file.recorded) throw new BadRequestException(`"${name}" does not say when it was recorded.`);
    if (file.pulls.length !== 1)
      throw new BadRequestException(`"${name}" holds ${file.pulls.length} pulls; its time is that of one.`);
    return { ...file, startedAt: instantOf(file.recorded, timeZone) };
  });
  timed.sort((a, b) => a.startedAt.localeCompare(b.startedAt));
  const twin = timed.findIndex((file, i) => file.startedAt === timed[i - 1]?.startedAt);
  if (twin > 0)
    throw new BadRequestException(
      `"${timed[twin - 1]!.row.name}" and "${timed[twin]!.row.name}" say the same time. Import them without times.`,
    );
  return timed;
}

/** An hour that summer time leaves out is taken as the one after it. */
export function instantOf({ local, offset }: RecordedAt, timeZone: string): string {
  return DateTime.fromISO(`${local}${offset ?? ''}`, { zone: timeZone })
    .toJSDate()
    .toISOString();
}

/** Whether a moment of a shop's clock stands for two instants: the hour that comes twice when summer time ends. */
export function comesTwice({ local, offset }: RecordedAt, timeZone: string): boolean {
  return offset === null && DateTime.fromISO(local, { zone: timeZone }).getPossibleOffsets().length > 1;
}
