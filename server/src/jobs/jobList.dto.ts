import { ApiProperty, ApiPropertyOptional } from '@nestjs/swagger';
import { VERDICTS, type Verdict } from '@prandel/core';
import { IsIn, IsOptional, IsString, IsUUID, Length } from 'class-validator';
import { Instant } from '../http/checks.ts';

/** An estimate with its 95 % interval, in the SI unit of the measure. */
export class GainCell {
  @ApiProperty({ description: 'SI of power and torque, else the unit of the measure.' }) unit: string;
  @ApiProperty() value: number;
  @ApiProperty() lowValue: number;
  @ApiProperty() highValue: number;
}

export class VerdictCell {
  @ApiProperty() candidate: string;
  @ApiProperty({ description: 'Its id, with its channel or engine speed in brackets.' }) measure: string;
  @ApiProperty({ enum: VERDICTS, enumName: 'Verdict' }) verdict: Verdict;
  @ApiProperty({ nullable: true, type: GainCell }) gain: GainCell | null;
}

export class JobRow {
  @ApiProperty() id: string;
  @ApiProperty() number: string;
  @ApiProperty() title: string;
  @ApiProperty() vehicle: string;
  @ApiProperty() updatedAt: string;
  @ApiProperty() pulls: number;
  @ApiProperty({ nullable: true, type: String, description: 'Latest pull, else the planned start.' }) dayAt:
    string | null;
  @ApiProperty({ nullable: true, type: String }) openedAt: string | null;
  @ApiProperty({
    enum: ['judged', 'pending', 'not-judged'],
    description: 'pending: being worked out, ask again; not-judged: `problem` says why.',
  })
  state: 'judged' | 'pending' | 'not-judged';
  @ApiProperty({ nullable: true, type: String }) problem: string | null;
  @ApiProperty({ type: [VerdictCell], description: 'Verdicts per candidate; empty unless judged.' })
  verdicts: VerdictCell[];
}

/** What a list of jobs asks for; every part narrows it. */
export const JOB_SORTS = ['updated', 'opened', 'number', 'title', 'vehicle', 'verdict'] as const;
export type JobSort = (typeof JOB_SORTS)[number];

export class JobSearch {
  @ApiPropertyOptional({ description: 'Key of the page before, in the same order.' })
  @IsOptional()
  @IsString()
  @Length(1, 500)
  after?: string;
  @ApiPropertyOptional({ enum: JOB_SORTS, enumName: 'JobSort', description: 'What the list is ordered by; "updated".' })
  @IsOptional()
  @IsIn(JOB_SORTS)
  sort?: JobSort;
  @ApiPropertyOptional({
    enum: ['rising', 'falling'],
    description: 'Instants fall, everything else rises when it is not said.',
  })
  @IsOptional()
  @IsIn(['rising', 'falling'])
  direction?: 'rising' | 'falling';
  @ApiPropertyOptional({
    description:
      'Beginnings of words, three letters at least, that all have to be there: in number, title, car, registration, model, customer, question, setups or parts.',
  })
  @IsOptional()
  @IsString()
  @Length(0, 200)
  q?: string;
  @ApiPropertyOptional({ enum: VERDICTS, enumName: 'Verdict', description: 'A candidate has this verdict.' })
  @IsOptional()
  @IsIn(VERDICTS)
  verdict?: Verdict;
  @ApiPropertyOptional({ format: 'uuid' }) @IsOptional() @IsUUID() bay?: string;
  @ApiPropertyOptional({ description: 'Opened at this instant or later.' }) @IsOptional() @Instant() from?: string;
  @ApiPropertyOptional({ description: 'Opened before this instant.' }) @IsOptional() @Instant() before?: string;
}

export class JobPage {
  @ApiProperty({ type: [JobRow] }) jobs: JobRow[];
  @ApiProperty({ nullable: true, type: String, description: 'Pass as `after` for the next page.' }) next: string | null;
  @ApiProperty({
    nullable: true,
    type: Number,
    description: 'Jobs that match, counted to 1,001; null on later pages.',
  })
  total: number | null;
}

/** A job that was deleted and can still be brought back. */
export class DeletedJob {
  @ApiProperty() id: string;
  @ApiProperty() number: string;
  @ApiProperty() title: string;
  @ApiProperty() vehicle: string;
  @ApiProperty() deletedAt: string;
}
