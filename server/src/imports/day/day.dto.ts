import { ApiProperty, ApiPropertyOptional, PickType } from '@nestjs/swagger';
import {
  ArrayMaxSize,
  ArrayMinSize,
  IsBoolean,
  IsIn,
  IsInt,
  IsOptional,
  IsString,
  IsUUID,
  Length,
  Max,
  Min,
} from 'class-validator';
import { Instant, Nested, NestedList, OrNull, Plausible, TimeZone } from '../../http/checks.ts';
import {
  ColumnMappingDto,
  MOST_FILES,
  NumberStateDto,
  PreviewPull,
  ShapeAnswersDto,
  TIME_SOURCES,
} from '../imports.dto.ts';

/** Files of one header, and what their columns are. */
export class DayShape {
  @ApiProperty({ type: [ColumnMappingDto] })
  @NestedList(() => ColumnMappingDto, 256)
  columns: ColumnMappingDto[];
  @ApiProperty({ type: ShapeAnswersDto, nullable: true, description: 'Null while nobody has said.' })
  @OrNull()
  @Nested(() => ShapeAnswersDto)
  answers: ShapeAnswersDto | null;
  @ApiPropertyOptional({
    description: 'Such files become pulls by themselves when a watched folder brings them to this bay.',
  })
  @IsOptional()
  @IsBoolean()
  byItself?: boolean;
}

export class DayFile {
  @ApiProperty() @IsUUID('all') id: string;
  @ApiProperty({ description: 'Which of the shapes it has.' }) @IsInt() @Min(0) @Max(99) shape: number;
  @ApiPropertyOptional({
    nullable: true,
    type: String,
    description: 'When it was last changed: an instant, or the clock of the computer that packed it.',
  })
  @OrNull()
  @IsString()
  @Length(19, 30)
  changedAt?: string | null;
}

/** Staged files of a day and what they are; nothing is stored. */
export class DayLayoutRequest {
  @ApiProperty({ type: [DayFile] })
  @ArrayMinSize(1)
  @NestedList(() => DayFile, MOST_FILES)
  files: DayFile[];
  @ApiProperty({ type: [DayShape] })
  @ArrayMinSize(1)
  @NestedList(() => DayShape, 100)
  shapes: DayShape[];
  @ApiProperty({ description: 'IANA zone of the recording computer’s clock, where a file does not say its own.' })
  @TimeZone()
  timeZone: string;
}

/** When a pull was made, and what says so. */
export class PullTimeDto {
  @ApiProperty({ type: String, format: 'date-time' }) at: string;
  @ApiProperty({ enum: TIME_SOURCES }) source: (typeof TIME_SOURCES)[number];
  @ApiProperty({ description: 'The words that it was read from.' }) words: string;
  @ApiProperty({
    nullable: true,
    enum: ['day-month', 'comes-twice', 'copied'],
    description: 'Day and month may be swapped; the clock was put back; copying may have changed the date.',
    type: String,
  })
  unsure: 'day-month' | 'comes-twice' | 'copied' | null;
}

/** A condition at the start of a pull, and what says so. */
export class SaidValue {
  @ApiProperty() value: number;
  @ApiProperty({ enum: ['channel', 'header', 'station'] }) source: 'channel' | 'header' | 'station';
  @ApiProperty({ nullable: true, type: String }) words: string | null;
}

export const CONDITIONS = [
  'airC',
  'pressureHpa',
  'relativeHumidity',
  'intakeStartC',
  'coolantStartC',
  'oilStartC',
] as const;
export type Condition = (typeof CONDITIONS)[number];

class SaidConditions implements Record<Condition, SaidValue | null> {
  @ApiProperty({ type: SaidValue, nullable: true }) airC: SaidValue | null;
  @ApiProperty({ type: SaidValue, nullable: true }) pressureHpa: SaidValue | null;
  @ApiProperty({ type: SaidValue, nullable: true }) relativeHumidity: SaidValue | null;
  @ApiProperty({ type: SaidValue, nullable: true }) intakeStartC: SaidValue | null;
  @ApiProperty({ type: SaidValue, nullable: true }) coolantStartC: SaidValue | null;
  @ApiProperty({ type: SaidValue, nullable: true }) oilStartC: SaidValue | null;
}

/** What a file says of the state of its numbers. */
export class SaidState {
  @ApiProperty({ enum: ['uncorrected', 'corrected'] }) kind: 'uncorrected' | 'corrected';
  @ApiProperty({ nullable: true, type: String }) standard: string | null;
  @ApiProperty({ nullable: true, type: Number }) factor: number | null;
  @ApiProperty({ nullable: true, type: Number, description: 'Factor of the standard in the weather that is known.' })
  computed: number | null;
  @ApiProperty() words: string;
}

/** Another pull that this one seems to be. */
export class TwinDto {
  @ApiProperty({ enum: ['same-samples', 'second-export'] }) kind: 'same-samples' | 'second-export';
  @ApiProperty({ nullable: true, type: String, description: 'Key of a pull of the job; null: a pull of these files.' })
  pullId: string | null;
  @ApiProperty({ nullable: true, type: Number, description: 'Place of a pull among these.' }) place: number | null;
  @ApiProperty({ nullable: true, type: Number }) correlation: number | null;
}

/** A pull of a day as it would be imported. */
export class DayPullDto extends PreviewPull {
  @ApiProperty() fileId: string;
  @ApiProperty({ description: 'Which pull of its file.' }) index: number;
  @ApiProperty({ nullable: true, type: Number }) durationS: number | null;
  @ApiProperty({ type: PullTimeDto, nullable: true }) when: PullTimeDto | null;
  @ApiProperty({ type: SaidConditions }) conditions: SaidConditions;
  @ApiProperty({ type: SaidState, nullable: true }) state: SaidState | null;
  @ApiProperty({ nullable: true, type: String }) gear: string | null;
  @ApiProperty({ nullable: true, type: String }) vehicle: string | null;
  @ApiProperty({ nullable: true, type: String }) round: string | null;
  @ApiProperty({ nullable: true, type: Number }) averagingRpm: number | null;
  @ApiProperty({ type: TwinDto, nullable: true }) twin: TwinDto | null;
}

class FileProblem {
  @ApiProperty({ nullable: true, type: Number }) line: number | null;
  @ApiProperty() message: string;
}

/** A file of which no pull can be made under its mapping. */
export class UnlaidFile {
  @ApiProperty() fileId: string;
  @ApiProperty() name: string;
  @ApiProperty({ type: [FileProblem] }) problems: FileProblem[];
}

export class DayLayout {
  @ApiProperty({ type: [DayPullDto], description: 'In the order of the files.' }) pulls: DayPullDto[];
  @ApiProperty({ type: [UnlaidFile] }) unlaid: UnlaidFile[];
}

/** Conditions as they are stored; null: not known. */
export class PullConditions implements Record<Condition, number | null> {
  @ApiProperty({ nullable: true, type: Number }) @OrNull() @Plausible('airC') airC: number | null;
  @ApiProperty({ nullable: true, type: Number }) @OrNull() @Plausible('pressureHpa') pressureHpa: number | null;
  @ApiProperty({ nullable: true, type: Number }) @OrNull() @Plausible('relativeHumidity') relativeHumidity:
    number | null;
  @ApiProperty({ nullable: true, type: Number }) @OrNull() @Plausible('intakeC') intakeStartC: number | null;
  @ApiProperty({ nullable: true, type: Number }) @OrNull() @Plausible('coolantC') coolantStartC: number | null;
  @ApiProperty({ nullable: true, type: Number }) @OrNull() @Plausible('oilC') oilStartC: number | null;
}

export class ImportedPull {
  @ApiProperty() @IsUUID('all') fileId: string;
  @ApiProperty() @IsInt() @Min(0) @Max(4999) index: number;
  @ApiProperty({ description: 'Its round of the day, from 1; a round has one setup.' })
  @IsInt()
  @Min(1)
  @Max(500)
  round: number;
  @ApiProperty() @IsString() @Length(1, 20) setupId: string;
  @ApiProperty({ enum: ['settle', 'counted', 'set-aside'] })
  @IsIn(['settle', 'counted', 'set-aside'])
  status: 'settle' | 'counted' | 'set-aside';
  @ApiProperty({ nullable: true, type: String }) @OrNull() @IsString() @Length(1, 200) reason: string | null;
  @ApiProperty({ nullable: true, type: String, format: 'date-time' }) @OrNull() @Instant() startedAt: string | null;
  @ApiProperty({ nullable: true, enum: [...TIME_SOURCES, 'typed'], type: String })
  @OrNull()
  @IsIn([...TIME_SOURCES, 'typed'])
  timeFrom: string | null;
  @ApiProperty({ type: PullConditions }) @Nested(() => PullConditions) conditions: PullConditions;
  @ApiProperty({ type: NumberStateDto }) @Nested(() => NumberStateDto) numberState: NumberStateDto;
  @ApiProperty({ nullable: true, type: String }) @OrNull() @IsString() @Length(1, 20) gear: string | null;
  @ApiProperty({ nullable: true, type: Number }) @OrNull() @Plausible('averagingRpm') averagingRpm: number | null;
}

/** A day of files, laid out and looked at: stored whole or not at all. */
export class DayImportRequest extends PickType(DayLayoutRequest, ['files', 'shapes'] as const) {
  @ApiProperty({ type: [ImportedPull], description: 'In the order of the day; pulls that are not named are left out.' })
  @ArrayMinSize(1)
  @ArrayMaxSize(2000)
  @NestedList(() => ImportedPull, 2000)
  pulls: ImportedPull[];
}

/** What a person says of files with one header, without importing any. */
export class ShapeSaid extends PickType(DayShape, ['columns', 'answers', 'byItself'] as const) {
  @ApiProperty({ description: 'A staged file of that kind.' }) @IsUUID('all') fileId: string;
}
