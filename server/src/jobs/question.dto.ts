import { ApiProperty, ApiPropertyOptional } from '@nestjs/swagger';
import { LIMITS, MEASURE_IDS, MOST_MEASURES, type MeasureId } from '@prandel/core';
import {
  ArrayMaxSize,
  IsArray,
  IsBoolean,
  IsIn,
  IsInt,
  IsNumber,
  IsOptional,
  IsString,
  Length,
  Max,
  Min,
} from 'class-validator';
import { AskedMeasures, NestedList, OrNull, RpmWindow } from '../http/checks.ts';

export class PlanStepDto {
  @ApiProperty() @IsString() @Length(1, 20) setup: string;
  @ApiProperty() @IsInt() @Min(0) @Max(20) settle: number;
  @ApiProperty() @IsInt() @Min(1) @Max(50) counted: number;
}

/** A measure as it is agreed before the first counted pull. */
export class MeasureDto {
  @ApiProperty({ enum: MEASURE_IDS, enumName: 'MeasureId' }) @IsIn(MEASURE_IDS) id: MeasureId;
  @ApiPropertyOptional({ description: 'Recorded channel, of start, end, peak, rise and mean.' })
  @IsOptional()
  @IsString()
  @Length(1, 61)
  channel?: string;
  @ApiPropertyOptional({ description: 'Engine speed, of powerAt and torqueAt.' })
  @IsOptional()
  @IsNumber()
  rpm?: number;
  @ApiPropertyOptional({ description: 'Torque that roll-ons are to reach, N·m.' })
  @IsOptional()
  @IsNumber()
  target?: number;
  @ApiPropertyOptional({ description: 'Lower road speed of roadTime, km/h.' })
  @IsOptional()
  @IsNumber()
  fromKmH?: number;
  @ApiPropertyOptional({ description: 'Higher road speed of roadTime, km/h.' })
  @IsOptional()
  @IsNumber()
  toKmH?: number;
  @ApiPropertyOptional({ type: [Number], description: 'A window of its own.' })
  @IsOptional()
  @RpmWindow()
  windowRpm?: [number, number];
  @ApiProperty({
    description: 'The size that would matter: per cent of power and torque, else the unit of the measure.',
  })
  @IsNumber()
  meaningful: number;
}

export class QuestionDto {
  @ApiProperty() @IsString() @Length(1, 400, { message: 'Write the question in words.' }) text: string;
  @ApiProperty() @IsString() @Length(1, 20) baselineSetup: string;
  @ApiProperty({
    type: [String],
    description: 'Empty on a commissioning day: rounds of one setup, nothing is compared.',
  })
  @IsArray()
  @ArrayMaxSize(LIMITS.setupsPerJob)
  @IsString({ each: true })
  @Length(1, 20, { each: true })
  candidateSetups: string[];
  @ApiProperty({ type: [MeasureDto], description: 'One to three; each gets a verdict of its own.' })
  @NestedList(() => MeasureDto, MOST_MEASURES)
  @AskedMeasures()
  measures: MeasureDto[];
  @ApiPropertyOptional({ type: [Number], nullable: true })
  @OrNull()
  @RpmWindow()
  windowRpm?: [number, number] | null;
  @ApiProperty() @IsBoolean() partChangesIntakeTemperature: boolean;
  @ApiPropertyOptional({ type: [PlanStepDto] })
  @IsOptional()
  @NestedList(() => PlanStepDto, 200)
  plan?: PlanStepDto[];
  @ApiPropertyOptional({ nullable: true, type: String })
  @IsOptional()
  @IsIn(['declared', 'undeclared'])
  extension?: 'declared' | 'undeclared' | null;
}
