import { ApiProperty, ApiPropertyOptional, OmitType, PartialType } from '@nestjs/swagger';
import {
  CHANGE_KINDS,
  CORRECTION_IDS,
  DECLARABLE_STATES,
  LIMITS,
  PULL_KINDS,
  type PullKind,
  STATE_FIELDS,
  type ChangeKind,
  type DeclarableState,
  OUTCOME_FIELDS,
  PLAN_SHAPES,
  type PlanShape,
} from '@prandel/core';
import {
  ArrayMaxSize,
  ArrayMinSize,
  IsArray,
  IsBoolean,
  IsIn,
  IsInt,
  IsNumber,
  IsObject,
  IsOptional,
  IsString,
  IsUUID,
  Length,
  Max,
  Min,
} from 'class-validator';
import {
  Instant,
  Nested,
  NestedList,
  NumberPair,
  OrNull,
  Plausible,
  TableOf,
  TimeZone,
  Version,
} from '../http/checks.ts';
import { RollersDto } from '../bays/bays.dto.ts';
import { QuestionDto } from './question.dto.ts';
import { RoadCarDto, RoadPassDto } from './road.dto.ts';
import { GearingDto, ReferenceDto, UseDto } from './use.dto.ts';

const text = (max: number) => Length(0, max);

export class VehicleDto {
  @ApiProperty() @IsString() @Length(1, 120, { message: 'Name the vehicle.' }) label: string;
  @ApiPropertyOptional({ nullable: true, type: String })
  @IsOptional()
  @IsIn(['front', 'rear', 'all', 'motorcycle'])
  drivenWheels?: 'front' | 'rear' | 'all' | 'motorcycle' | null;
  @ApiPropertyOptional({ nullable: true, type: String })
  @IsOptional()
  @IsIn(['natural', 'turbo', 'supercharged'])
  aspiration?: 'natural' | 'turbo' | 'supercharged' | null;
  @ApiPropertyOptional({ nullable: true, type: String })
  @IsOptional()
  @IsIn(['manual', 'automatic', 'cvt'])
  transmission?: 'manual' | 'automatic' | 'cvt' | null;
  @ApiPropertyOptional({ nullable: true, type: Number }) @OrNull() @Plausible('massKg') massKg?: number | null;
  @ApiPropertyOptional({ nullable: true, type: Number })
  @OrNull()
  @Plausible('engineToRollerRatio')
  engineToRollerRatio?: number | null;
  @ApiPropertyOptional({ description: 'Known to lose over 0.2 % per °C of start temperature.' })
  @IsOptional()
  @IsBoolean()
  heatSensitive?: boolean;
}

export class BayDto {
  @ApiProperty() @IsString() @text(120) label: string;
  @ApiPropertyOptional({ nullable: true, type: String })
  @IsOptional()
  @IsIn(['inertia', 'braked', 'linked', 'split', 'hub'])
  kind?: 'inertia' | 'braked' | 'linked' | 'split' | 'hub' | null;
  @ApiPropertyOptional({ nullable: true, type: Number })
  @OrNull()
  @Plausible('rollerInertiaKgM2')
  rollerInertiaKgM2?: number | null;
}

/** What only the standard for compression ignition needs. */
export class CompressionIgnitionDto {
  @ApiProperty() @IsBoolean() turbocharged: boolean;
  @ApiProperty({ description: 'Fuel per litre of displacement and cycle, mg.' })
  @IsNumber()
  @Min(1)
  @Max(200)
  fuelMgPerLitreCycle: number;
  @ApiProperty({ description: 'Boost pressure over pressure ahead of the compressor; 1 without one.' })
  @IsNumber()
  @Min(1)
  @Max(6)
  boostPressureRatio: number;
}

export class MethodDto {
  @ApiProperty({ enum: CORRECTION_IDS }) @IsIn(CORRECTION_IDS) correction: (typeof CORRECTION_IDS)[number];
  @ApiProperty() @IsNumber() @Min(0) @Max(1000) averagingWidthRpm: number;
  @ApiPropertyOptional() @IsOptional() @IsInt() @Min(0) @Max(10) settlePulls?: number;
  @ApiPropertyOptional() @IsOptional() @IsString() @text(120) name?: string;
  @ApiPropertyOptional({ type: 'object', additionalProperties: { type: 'number' } })
  @IsOptional()
  @TableOf('number')
  gates?: Record<string, number>;
  @ApiPropertyOptional({ type: 'object', additionalProperties: { type: 'string' } })
  @IsOptional()
  @TableOf('text')
  schools?: Record<string, string>;
  @ApiPropertyOptional({ type: CompressionIgnitionDto })
  @IsOptional()
  @Nested(() => CompressionIgnitionDto)
  compressionIgnition?: CompressionIgnitionDto;
}

export class AbortLimitDto {
  @ApiProperty() @IsString() @Length(1, 60) channel: string;
  @ApiProperty({ nullable: true, type: Number }) @OrNull() @IsNumber() @Min(-1e6) @Max(1e6) warn: number | null;
  @ApiProperty() @IsNumber() @Min(-1e6) @Max(1e6) stop: number;
  @ApiProperty({ enum: ['above', 'below'] }) @IsIn(['above', 'below']) side: 'above' | 'below';
}

/** Minutes from one setup to another on the car. */
export class FittingTimeDto {
  @ApiProperty() @IsString() @Length(1, 20) from: string;
  @ApiProperty() @IsString() @Length(1, 20) to: string;
  @ApiProperty() @IsNumber() @Min(0) @Max(2880) minutes: number;
}

export class DayPlanDto {
  @ApiProperty({ enum: PLAN_SHAPES })
  @IsIn(PLAN_SHAPES)
  shape: PlanShape;
  @ApiProperty({ nullable: true, type: String }) @OrNull() @Instant() startAt: string | null;
  @ApiProperty() @IsNumber() @Min(1) @Max(60) minutesPerPull: number;
  @ApiProperty() @IsNumber() @Min(0) @Max(2880) fittingMinutes: number;
  @ApiProperty() @IsInt() @Min(0) @Max(1440) openFromMin: number;
  @ApiProperty() @IsInt() @Min(0) @Max(1440) openUntilMin: number;
  @ApiProperty({ nullable: true, type: [Number] }) @OrNull() @NumberPair() forecastC: [number, number] | null;
  @ApiProperty({ enum: ['fixed', 'randomised'] }) @IsIn(['fixed', 'randomised']) order: 'fixed' | 'randomised';
  @ApiPropertyOptional({ type: [FittingTimeDto] })
  @IsOptional()
  @NestedList(() => FittingTimeDto, 500)
  times?: FittingTimeDto[];
}

/** What is written about a fitting at the desk; its clock is not changed there. */
export class FittingDto {
  @ApiProperty({ description: 'Which fitting: the instant its clock was started.' }) @Instant() startedAt: string;
  @ApiProperty() @IsString() @text(400) changed: string;
  @ApiProperty() @IsString() @text(400) disturbed: string;
  @ApiProperty() @IsString() @text(400) parts: string;
  @ApiProperty({ nullable: true, type: Number }) @OrNull() @IsNumber() @Min(0) @Max(1e9) cost: number | null;
  @ApiProperty() @IsString() @text(2000) notes: string;
}

/** Papers of the day; a member that is absent stays as it is. */
export class DayDto {
  @ApiPropertyOptional({ nullable: true, type: String }) @IsOptional() @IsString() @text(200) customer?: string | null;
  @ApiPropertyOptional({ nullable: true, type: String }) @IsOptional() @IsString() @text(400) claim?: string | null;
  @ApiPropertyOptional({
    type: 'object',
    additionalProperties: { type: 'string' },
    description: 'Notes by subject; an empty one is taken away, others stay.',
  })
  @IsOptional()
  @TableOf('text')
  intake?: Record<string, string>;
  @ApiPropertyOptional({ type: 'object', additionalProperties: true })
  @IsOptional()
  @IsObject()
  modelCard?: object;
  @ApiPropertyOptional({ description: 'The model card on record by which the car is run from now on.' })
  @IsOptional()
  @IsUUID()
  cardId?: string;
  @ApiPropertyOptional({ type: DayPlanDto })
  @IsOptional()
  @Nested(() => DayPlanDto)
  plan?: DayPlanDto;
  @ApiPropertyOptional({ type: [AbortLimitDto] })
  @IsOptional()
  @NestedList(() => AbortLimitDto, LIMITS.channelsPerPull)
  abortLimits?: AbortLimitDto[];
  @ApiPropertyOptional({ type: [FittingDto], description: 'Words about fittings that were clocked.' })
  @IsOptional()
  @NestedList(() => FittingDto, 500)
  fittings?: FittingDto[];
  @ApiPropertyOptional({
    type: [String],
    description: 'Channels that are shown and printed beside power; at most four.',
  })
  @IsOptional()
  @IsArray()
  @ArrayMaxSize(4)
  @IsString({ each: true })
  @Length(1, 61, { each: true })
  channels?: string[];
  @ApiPropertyOptional({ type: [Number], description: 'Engine speeds at which values are kept and printed, rpm.' })
  @IsOptional()
  @IsArray()
  @ArrayMaxSize(12)
  @IsNumber({}, { each: true })
  @Min(0, { each: true })
  @Max(30_000, { each: true })
  readAtRpm?: number[];
  @ApiPropertyOptional({ nullable: true, type: String }) @IsOptional() @IsString() @text(400) cannotBeUndone?:
    string | null;
}

/** One thing that was changed for a setup against its parent. */
export class ChangeDto {
  @ApiProperty({ enum: CHANGE_KINDS }) @IsIn(CHANGE_KINDS) kind: ChangeKind;
  @ApiProperty({ nullable: true, type: String, description: 'The fitted or removed part by its name.' })
  @OrNull()
  @IsString()
  @Length(1, 300)
  part: string | null;
  @ApiProperty({ description: 'The item as it stands in the column `changes` of a package.' })
  @IsString()
  @text(400)
  text: string;
}

export class SetupDto {
  @ApiProperty() @IsString() @Length(1, 8) id: string;
  @ApiProperty() @IsString() @Length(1, 120, { message: 'Name the setup.' }) label: string;
  @ApiPropertyOptional({ nullable: true, type: String }) @OrNull() @IsString() @Length(1, 20) parentId?: string | null;
  @ApiPropertyOptional({ nullable: true, type: String }) @OrNull() @IsString() @Length(1, 20) returnsTo?: string | null;
  @ApiProperty({ type: [ChangeDto] }) @NestedList(() => ChangeDto, 50) changes: ChangeDto[];
  @ApiPropertyOptional({ enum: DECLARABLE_STATES, isArray: true, description: 'States that differ on purpose.' })
  @IsOptional()
  @IsArray()
  @ArrayMaxSize(DECLARABLE_STATES.length)
  @IsIn(DECLARABLE_STATES, { each: true })
  declares?: DeclarableState[];
  @ApiProperty({ type: 'object', additionalProperties: { type: 'string' }, description: STATE_FIELDS.join(', ') })
  @TableOf('text', 30)
  state: Record<string, string>;
  @ApiPropertyOptional() @IsOptional() @IsBoolean() closedCourseOnly?: boolean;
  @ApiPropertyOptional({ description: 'The car was off its straps before it.' })
  @IsOptional()
  @IsBoolean()
  remounted?: boolean;
}

export class NewJob {
  @ApiProperty() @IsString() @Length(1, 200, { message: 'Write the question in words.' }) title: string;
  @ApiProperty({ type: VehicleDto }) @Nested(() => VehicleDto) vehicle: VehicleDto;
  @ApiProperty({ type: BayDto }) @Nested(() => BayDto) bay: BayDto;
  @ApiProperty({ type: QuestionDto }) @Nested(() => QuestionDto) question: QuestionDto;
  @ApiProperty({ type: [SetupDto] })
  @ArrayMinSize(1, { message: 'A job needs a setup.' })
  @NestedList(() => SetupDto, LIMITS.setupsPerJob)
  setups: SetupDto[];
  @ApiPropertyOptional({ type: MethodDto }) @IsOptional() @Nested(() => MethodDto) method?: MethodDto;
  @ApiPropertyOptional({ type: DayDto }) @IsOptional() @Nested(() => DayDto) day?: DayDto;
  @ApiPropertyOptional() @IsOptional() @TimeZone() timeZone?: string;
  @ApiPropertyOptional({ description: 'The car of the shop’s records; without one the car is put on record.' })
  @IsOptional()
  @IsUUID()
  vehicleId?: string;
}

export class VehicleEdit extends PartialType(VehicleDto) {}
export class QuestionEdit extends PartialType(QuestionDto) {}
export class MethodEdit extends PartialType(MethodDto) {}

/** Costs of a setup besides its parts and hours. */
export class CostsDto {
  @ApiProperty({ nullable: true, type: Number }) @OrNull() @IsNumber() @Min(0) @Max(1e9) adapters: number | null;
  @ApiProperty({ nullable: true, type: Number }) @OrNull() @IsNumber() @Min(0) @Max(1e9) consumables: number | null;
  @ApiProperty({ nullable: true, type: Number }) @OrNull() @IsNumber() @Min(0) @Max(1e9) tune: number | null;
}

/** Named fields of one setup; one that the job does not have yet needs at least its label. */
export class SetupEdit extends PartialType(OmitType(SetupDto, ['id'] as const)) {
  @ApiProperty() @IsString() @Length(1, 8) id: string;
  @ApiPropertyOptional({ nullable: true, type: Number }) @OrNull() @IsNumber() @Min(0) @Max(1e9) partCost?:
    number | null;
  @ApiPropertyOptional({ nullable: true, type: Number }) @OrNull() @IsNumber() @Min(0) @Max(1e5) labourHours?:
    number | null;
  @ApiPropertyOptional({ nullable: true, type: String }) @OrNull() @IsString() @Length(1, 20) currency?: string | null;
  @ApiPropertyOptional({ nullable: true, type: String }) @OrNull() @IsString() @Length(1, 200) supplier?: string | null;
  @ApiPropertyOptional({ type: CostsDto, description: 'Costs besides parts and hours.' })
  @IsOptional()
  @Nested(() => CostsDto)
  costs?: CostsDto;
  @ApiPropertyOptional({ description: 'It put something right that was wrong with the car.' })
  @IsOptional()
  @IsBoolean()
  cure?: boolean;
  @ApiPropertyOptional({ description: 'It cannot come off again.' })
  @IsOptional()
  @IsBoolean()
  permanent?: boolean;
  @ApiPropertyOptional({
    type: 'object',
    additionalProperties: { type: 'string' },
    description: `${OUTCOME_FIELDS.join(', ')}; what is not named stays, an empty one goes.`,
  })
  @IsOptional()
  @TableOf('text', 20)
  outcomes?: Record<string, string>;
}

/** A change of a job: every member holds named fields only, and what is not named stays as it is. */
/** Facts of the rollers that were wrong or missing when the job was opened; only what is named changes. */
export class CalibrationEdit extends RollersDto {
  @ApiProperty({ description: 'Why it is corrected; stands in the log.' })
  @IsString()
  @Length(3, 400, { message: 'Say why the calibration is corrected.' })
  reason: string;
}

export class JobEdit {
  @ApiProperty({ description: 'The version that was read; a newer one refuses the edit.' }) @Version() version: number;
  @ApiPropertyOptional()
  @IsOptional()
  @IsString()
  @Length(1, 200, { message: 'Write the question in words.' })
  title?: string;
  @ApiPropertyOptional({ type: VehicleEdit })
  @IsOptional()
  @Nested(() => VehicleEdit)
  vehicle?: VehicleEdit;
  @ApiPropertyOptional({ type: QuestionEdit })
  @IsOptional()
  @Nested(() => QuestionEdit)
  question?: QuestionEdit;
  @ApiPropertyOptional({ type: MethodEdit }) @IsOptional() @Nested(() => MethodEdit) method?: MethodEdit;
  @ApiPropertyOptional({ type: [SetupEdit], description: 'Setups by id; those that are not named stay.' })
  @IsOptional()
  @NestedList(() => SetupEdit, LIMITS.setupsPerJob)
  setups?: SetupEdit[];
  @ApiPropertyOptional({ type: [String], description: 'Setups to take away; only one without pulls can go.' })
  @IsOptional()
  @IsArray()
  @ArrayMaxSize(LIMITS.setupsPerJob)
  @IsString({ each: true })
  removedSetups?: string[];
  @ApiPropertyOptional({ type: DayDto }) @IsOptional() @Nested(() => DayDto) day?: DayDto;
  @ApiPropertyOptional({ description: 'Why the question changes after the first counted pull.' })
  @IsOptional()
  @IsString()
  @text(400)
  amendment?: string;
  @ApiPropertyOptional({ type: CalibrationEdit, description: 'The rollers the job was run on, corrected.' })
  @IsOptional()
  @Nested(() => CalibrationEdit)
  calibration?: CalibrationEdit;
  @ApiPropertyOptional({ type: [RoadPassDto], description: 'All passes on the road, in the order in which they went.' })
  @IsOptional()
  @NestedList(() => RoadPassDto, LIMITS.roadPasses)
  roadPasses?: RoadPassDto[];
  @ApiPropertyOptional({ type: RoadCarDto }) @IsOptional() @Nested(() => RoadCarDto) road?: RoadCarDto;
  @ApiPropertyOptional({ type: GearingDto }) @IsOptional() @Nested(() => GearingDto) gearing?: GearingDto;
  @ApiPropertyOptional({ type: UseDto }) @IsOptional() @Nested(() => UseDto) use?: UseDto;
  @ApiPropertyOptional({ type: [ReferenceDto], description: 'All curves of other jobs laid under this one’s.' })
  @IsOptional()
  @NestedList(() => ReferenceDto, 8)
  references?: ReferenceDto[];
}

/** A setup added to a job, also when its pulls have begun: it is named a candidate and is planned once. */
export class AddedSetup extends OmitType(SetupEdit, ['id'] as const) {
  @ApiProperty({ description: 'The setup it is made from.' }) @IsString() @Length(1, 20) declare parentId: string;
  @ApiPropertyOptional({ description: 'The next free letter where absent.' })
  @IsOptional()
  @IsString()
  @Length(1, 8)
  id?: string;
}

export class AddedSetupAnswer {
  @ApiProperty() id: string;
}

export class PullEdit {
  @ApiProperty() @Version() version: number;
  @ApiProperty({ enum: ['settle', 'counted', 'set-aside'] }) @IsIn(['settle', 'counted', 'set-aside']) status:
    'settle' | 'counted' | 'set-aside';
  @ApiPropertyOptional({ nullable: true, type: String }) @IsOptional() @IsString() @Length(1, 300) reason?:
    string | null;
  @ApiPropertyOptional({
    enum: PULL_KINDS,
    description: 'What the pull is, where the finder took it for another kind.',
  })
  @IsOptional()
  @IsIn(PULL_KINDS)
  kind?: PullKind;
}

export class JobNote {
  @ApiProperty({ nullable: true, type: Number, description: 'The row of the log that the words are about.' })
  @IsOptional()
  @IsInt()
  about: number | null;
  @ApiProperty() @IsString() @Length(1, 400, { message: 'Write some words.' }) words: string;
}

export class JobCreated {
  @ApiProperty() id: string;
}
