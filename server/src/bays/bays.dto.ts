import { ApiProperty, ApiPropertyOptional } from '@nestjs/swagger';
import { STATE_FIELDS } from '@prandel/core';
import { Type } from 'class-transformer';
import {
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
  ValidateNested,
} from 'class-validator';
import { BayDto } from '../jobs/jobs.dto.ts';

export class AddressDto {
  @ApiProperty() @IsString() @Length(1, 253) host: string;
  @ApiProperty() @IsInt() @Min(1) @Max(65535) port: number;
}

export class InstrumentsDto {
  @ApiProperty({ type: AddressDto, nullable: true })
  @IsOptional()
  @ValidateNested()
  @Type(() => AddressDto)
  rollers: AddressDto | null;
  @ApiProperty({ type: AddressDto, nullable: true })
  @IsOptional()
  @ValidateNested()
  @Type(() => AddressDto)
  weather: AddressDto | null;
  @ApiProperty({ type: AddressDto, nullable: true })
  @IsOptional()
  @ValidateNested()
  @Type(() => AddressDto)
  bus: AddressDto | null;
  @ApiProperty({ type: AddressDto, nullable: true })
  @IsOptional()
  @ValidateNested()
  @Type(() => AddressDto)
  aux: AddressDto | null;
  @ApiPropertyOptional({ type: 'object', additionalProperties: true }) @IsOptional() @IsObject() registers?: object;
}

export class BayPapers extends BayDto {
  @ApiPropertyOptional({ nullable: true, type: Number }) @IsOptional() @IsNumber() @Min(-450) @Max(6000) elevationM?:
    number | null;
  @ApiPropertyOptional({ nullable: true, type: String })
  @IsOptional()
  @IsString()
  @Length(1, 40)
  calibrationEpoch?: string | null;
}

export class BayEdit {
  @ApiProperty() @IsString() @Length(1, 60, { message: 'Name the bay.' }) label: string;
  @ApiProperty({ type: BayPapers }) @ValidateNested() @Type(() => BayPapers) paper: BayPapers;
  @ApiProperty({ type: InstrumentsDto })
  @ValidateNested()
  @Type(() => InstrumentsDto)
  instruments: InstrumentsDto;
}

/** What somebody does on the run sheet; every one is a button or a key, none needs words between pulls. */
export const SHEET_ACTIONS = [
  'open-job',
  'start-round',
  'resume-round',
  'extra-settle',
  'override',
  'withdraw-override',
  'keep',
  'set-aside',
  'close-round',
  'extend',
  'set-point',
  'start-fitting',
  'stop-fitting',
  'acknowledge-stop',
  'note',
  'leave',
] as const;

export class FittingWords {
  @ApiPropertyOptional() @IsOptional() @IsString() @Length(0, 400) changed?: string;
  @ApiPropertyOptional() @IsOptional() @IsString() @Length(0, 400) disturbed?: string;
  @ApiPropertyOptional() @IsOptional() @IsString() @Length(0, 400) parts?: string;
  @ApiPropertyOptional({ nullable: true, type: Number }) @IsOptional() @IsNumber() @Min(0) cost?: number | null;
  @ApiPropertyOptional() @IsOptional() @IsString() @Length(0, 2000) notes?: string;
}

export class SheetAction {
  @ApiProperty({ enum: SHEET_ACTIONS }) @IsIn(SHEET_ACTIONS) action: (typeof SHEET_ACTIONS)[number];
  @ApiPropertyOptional({ description: 'The job to open.' }) @IsOptional() @IsUUID() job?: string;
  @ApiPropertyOptional({ description: 'The setup of a round or fitting.' })
  @IsOptional()
  @IsString()
  @Length(1, 20)
  setup?: string;
  @ApiPropertyOptional({ description: 'The pull to keep or set aside.' }) @IsOptional() @IsString() pull?: string;
  @ApiPropertyOptional() @IsOptional() @IsString() @Length(1, 400) reason?: string;
  @ApiPropertyOptional({ enum: STATE_FIELDS, description: 'The state that was set as the baseline had it.' })
  @IsOptional()
  @IsIn(STATE_FIELDS)
  state?: (typeof STATE_FIELDS)[number];
  @ApiPropertyOptional({ type: FittingWords })
  @IsOptional()
  @ValidateNested()
  @Type(() => FittingWords)
  fitting?: FittingWords;
}
