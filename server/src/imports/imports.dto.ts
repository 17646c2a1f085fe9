import { ApiProperty, ApiPropertyOptional } from '@nestjs/swagger';
import {
  ArrayMaxSize,
  ArrayMinSize,
  IsArray,
  IsIn,
  IsInt,
  IsNumber,
  IsOptional,
  IsString,
  IsUUID,
  Length,
  Max,
  Min,
} from 'class-validator';
import { Nested, NestedList, OrNull, Plausible, TimeZone } from '../http/checks.ts';

/** Files of one import. */
export const MOST_FILES = 500;
const SHAPE_STATES = ['uncorrected', 'as-stated', 'corrected', 'scaled', 'unknown'] as const;

export class ColumnMappingDto {
  @ApiProperty() @IsString() @Length(1, 40) role: string;
  @ApiPropertyOptional({ nullable: true, type: String }) @OrNull() @IsString() @Length(1, 40) unit?: string | null;
}

export class NumberStateDto {
  @ApiProperty({ enum: ['uncorrected', 'corrected', 'scaled', 'unknown'] })
  @IsIn(['uncorrected', 'corrected', 'scaled', 'unknown'])
  kind: 'uncorrected' | 'corrected' | 'scaled' | 'unknown';
  @ApiPropertyOptional() @IsOptional() @IsString() @Length(0, 60) standard?: string;
  @ApiPropertyOptional() @IsOptional() @IsNumber() @Min(0.2) @Max(5) factor?: number;
}

/** Conditions of the round, for files that do not carry them. */
export class RoundConditions {
  @ApiPropertyOptional({ nullable: true, type: Number }) @OrNull() @Plausible('pressureHpa') pressureHpa?:
    number | null;
  @ApiPropertyOptional({ nullable: true, type: Number }) @OrNull() @Plausible('airC') airC?: number | null;
  @ApiPropertyOptional({ nullable: true, type: Number }) @OrNull() @Plausible('relativeHumidity') relativeHumidity?:
    number | null;
  @ApiPropertyOptional({ nullable: true, type: String }) @IsOptional() @IsString() @Length(1, 20) gear?: string | null;
  @ApiPropertyOptional({ nullable: true, type: Number }) @OrNull() @Plausible('averagingRpm') averagingRpm?:
    number | null;
}

/** How the times of files are read. */
export class ClockDto {
  @ApiProperty({ description: 'IANA zone of the recording computer’s clock, where a file does not say its own.' })
  @TimeZone()
  timeZone: string;
}

export class ImportRequest {
  @ApiProperty({ type: [String] })
  @IsArray()
  @ArrayMinSize(1)
  @ArrayMaxSize(500)
  @IsUUID('all', { each: true })
  fileIds: string[];
  @ApiProperty() @IsString() @Length(1, 20) setupId: string;
  @ApiProperty({ description: 'How many pulls at the start of the round are settle pulls.' })
  @IsInt()
  @Min(0)
  @Max(20)
  settle: number;
  @ApiProperty({ type: [ColumnMappingDto] })
  @NestedList(() => ColumnMappingDto, 256)
  columns: ColumnMappingDto[];
  @ApiProperty({ type: NumberStateDto }) @Nested(() => NumberStateDto) numberState: NumberStateDto;
  @ApiPropertyOptional({ type: RoundConditions })
  @IsOptional()
  @Nested(() => RoundConditions)
  conditions?: RoundConditions;
  @ApiPropertyOptional({
    type: ClockDto,
    description:
      'The pulls were made when their files say; every file holds one pull and says when. Without it they have no time.',
  })
  @IsOptional()
  @Nested(() => ClockDto)
  clock?: ClockDto;
}

export class ProblemDto {
  @ApiProperty({ nullable: true, type: Number }) line: number | null;
  @ApiProperty() message: string;
}

export class GuessedColumn {
  @ApiProperty() name: string;
  @ApiProperty() role: string;
  @ApiProperty({ nullable: true, type: String }) unit: string | null;
  @ApiProperty() confidence: number;
}

export class StagedPull {
  @ApiProperty() name: string;
  @ApiProperty() rows: number;
  @ApiProperty({
    type: 'array',
    items: { type: 'array', items: { type: 'number', nullable: true } },
    description: 'First values of every column.',
  })
  sample: (number | null)[][];
}

/** What tells when a pull was made. */
export const TIME_SOURCES = ['header', 'time-column', 'file-name', 'file-date'] as const;

/** What a person said of the numbers of files with one header. */
export class ShapeAnswersDto {
  @ApiProperty({ enum: SHAPE_STATES, description: '`as-stated`: each file says its standard and its factor.' })
  @IsIn(SHAPE_STATES)
  state: (typeof SHAPE_STATES)[number];
  @ApiProperty({ nullable: true, type: String }) @OrNull() @IsString() @Length(1, 60) standard: string | null;
  @ApiProperty({ nullable: true, type: Number }) @OrNull() @IsNumber() @Min(0.2) @Max(5) factor: number | null;
  @ApiProperty({ nullable: true, type: Number }) @OrNull() @Plausible('averagingRpm') averagingRpm: number | null;
  @ApiProperty({
    nullable: true,
    type: Number,
    description: 'Engine speed over road speed, for files over road speed.',
  })
  @OrNull()
  @IsNumber()
  @Min(1)
  @Max(500)
  rpmPerKmH: number | null;
}

/** When a file says it was recorded. */
export class RecordedAtDto {
  @ApiProperty({ description: 'Date and time of day as they stand there.' }) local: string;
  @ApiProperty({ nullable: true, type: String, description: 'Distance from UTC where it stands there.' })
  offset: string | null;
  @ApiProperty({ enum: TIME_SOURCES }) source: (typeof TIME_SOURCES)[number];
  @ApiProperty({ description: 'The words that it was read from.' }) words: string;
  @ApiProperty({ description: 'Day and month may be the other way round.' }) dayMonthUnsure: boolean;
}

/** A file as the reader understands it; `id` is null when it cannot be read and was not kept. */
export class StagedFile {
  @ApiProperty() name: string;
  @ApiProperty({ nullable: true, type: String }) id: string | null;
  @ApiPropertyOptional() encoding?: string;
  @ApiPropertyOptional() delimiter?: string;
  @ApiPropertyOptional() decimal?: string;
  @ApiPropertyOptional({ nullable: true, type: Number }) headerLine?: number | null;
  @ApiPropertyOptional({ type: [String] }) preamble?: string[];
  @ApiPropertyOptional() signature?: string;
  @ApiPropertyOptional({ description: 'The columns are as a person mapped this header before.' }) remembered?: boolean;
  @ApiPropertyOptional({ enum: ['separated', 'columns-of-blanks', 'workbook'] }) written?: string;
  @ApiPropertyOptional({
    enum: ['one', 'blocks', 'named', 'side-by-side'],
    description: 'How several pulls stand in it.',
  })
  arrangement?: string;
  @ApiPropertyOptional({
    type: ShapeAnswersDto,
    nullable: true,
    description: 'What was said of the numbers of such files in this bay before.',
  })
  answers?: ShapeAnswersDto | null;
  @ApiPropertyOptional({
    nullable: true,
    type: String,
    description: 'When it was changed by the clock of the computer that packed it, for files of an archive; no zone.',
  })
  changedAt?: string | null;
  @ApiPropertyOptional({ type: [GuessedColumn] }) columns?: GuessedColumn[];
  @ApiPropertyOptional({ type: [StagedPull] }) pulls?: StagedPull[];
  @ApiPropertyOptional({ nullable: true, type: RecordedAtDto }) recorded?: RecordedAtDto | null;
  @ApiProperty({ type: [ProblemDto] }) problems: ProblemDto[];
}

export class PreviewPoint {
  @ApiProperty() rpm: number;
  @ApiProperty() powerW: number;
}

export class PreviewFinding {
  @ApiProperty() code: string;
  @ApiProperty() severity: string;
  @ApiProperty() text: string;
}

/** A pull as it would be imported. */
export class PreviewPull {
  @ApiProperty() file: string;
  @ApiProperty() name: string;
  @ApiProperty() rows: number;
  @ApiProperty({ nullable: true, type: Number }) rpmFrom: number | null;
  @ApiProperty({ nullable: true, type: Number }) rpmTo: number | null;
  @ApiProperty({ nullable: true, type: Number }) peakPowerW: number | null;
  @ApiProperty({ type: [PreviewPoint] }) curve: PreviewPoint[];
  @ApiProperty({ type: [PreviewFinding] }) findings: PreviewFinding[];
}

/** How many pulls an import made. */
export class Imported {
  @ApiProperty() pulls: number;
}

/** A file that pulls were imported from; its bytes are kept as they came. */
export class OriginalFile {
  @ApiProperty() id: string;
  @ApiProperty() name: string;
  @ApiProperty({ type: String, format: 'date-time' }) addedAt: Date;
}
