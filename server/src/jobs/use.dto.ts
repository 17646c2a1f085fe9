import { ApiProperty } from '@nestjs/swagger';
import { CORRECTION_IDS, type CorrectionId } from '@prandel/core';
import {
  ArrayMaxSize,
  ArrayMinSize,
  IsArray,
  IsIn,
  IsInt,
  IsNumber,
  IsString,
  Length,
  Max,
  Min,
} from 'class-validator';
import { Instant, NestedList, OrNull } from '../http/checks.ts';

/** The gears between the engine and the road; whether they can be those of a car, core says. */
export class GearingDto {
  @ApiProperty({ type: [Number], description: 'First gear first.' })
  @IsArray()
  @ArrayMinSize(1)
  @ArrayMaxSize(12)
  @IsNumber({}, { each: true })
  ratios: number[];
  @ApiProperty({ description: '1 where the ratios hold it already.' }) @IsNumber() finalDrive: number;
  @ApiProperty({ description: 'Rolling circumference of the driven tyre, m.' }) @IsNumber() circumferenceM: number;
  @ApiProperty({ description: 'rpm' }) @IsNumber() limiterRpm: number;
  @ApiProperty({ description: 's' }) @IsNumber() shiftSeconds: number;
}

export class UseShareDto {
  @ApiProperty({ description: 'Class of 500 rpm from here on.' }) @IsInt() @Min(0) @Max(30_000) fromRpm: number;
  @ApiProperty({ description: '0 to 1; all shares sum to 1.' }) @IsNumber() @Min(0) @Max(1) share: number;
}

/** How a car is used: share of the time at full load by engine speed. */
export class UseDto {
  @ApiProperty() @IsString() @Length(1, 80) name: string;
  @ApiProperty({ type: [UseShareDto] }) @NestedList(() => UseShareDto, 60) shares: UseShareDto[];
}

/** A mean curve of another job, as it was when somebody laid it under this one. */
export class ReferenceDto {
  @ApiProperty() @IsString() @Length(1, 200) name: string;
  @ApiProperty({ nullable: true, type: String }) @OrNull() @Instant() at: string | null;
  @ApiProperty() @IsString() @Length(0, 120) bay: string;
  @ApiProperty({ nullable: true, enum: CORRECTION_IDS, type: String })
  @OrNull()
  @IsIn(CORRECTION_IDS)
  correction: CorrectionId | null;
  @ApiProperty({ description: 'Lowest point of the grid of 25 rpm.' }) @IsInt() @Min(0) @Max(1200) first: number;
  @ApiProperty({ type: [Number], description: 'Wheel power, W.' })
  @IsArray()
  @ArrayMinSize(2)
  @ArrayMaxSize(1200)
  @IsNumber({}, { each: true })
  @Min(-3e6, { each: true })
  @Max(3e6, { each: true })
  values: number[];
}
