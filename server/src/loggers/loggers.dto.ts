import { ApiProperty, ApiPropertyOptional } from '@nestjs/swagger';
import { LAID_BY, NOT_LAID, type LaidBy, type NotLaid } from '@prandel/core';
import { IsNumber, IsOptional, IsString, IsUUID, Length, Max, Min } from 'class-validator';
import { Nested, NestedList } from '../http/checks.ts';
import { ColumnMappingDto } from '../imports/imports.dto.ts';

/** Where a person places a pull in the record. */
export class ByHandDto {
  @ApiProperty() @IsString() @Length(1, 120) pull: string;
  @ApiProperty({ description: 'Second of the logger’s clock at which the pull’s recording begins.' })
  @IsNumber()
  @Min(-1e7)
  @Max(1e9)
  atS: number;
}

/** A staged file that is a logger's record. */
export class LoggerRequest {
  @ApiProperty() @IsUUID() fileId: string;
  @ApiProperty({ type: [ColumnMappingDto] }) @NestedList(() => ColumnMappingDto, 256) columns: ColumnMappingDto[];
  @ApiPropertyOptional({ type: ByHandDto, description: 'Placed by a person; pulls with times follow.' })
  @IsOptional()
  @Nested(() => ByHandDto)
  byHand?: ByHandDto;
}

export class CoveredPullDto {
  @ApiProperty() id: string;
  @ApiProperty() atS: number;
  @ApiProperty({ nullable: true, type: Number }) correlation: number | null;
}

export class LaidDto {
  @ApiProperty({ enum: LAID_BY }) laidBy: LaidBy;
  @ApiProperty({ nullable: true, type: Number, description: 'How much faster the logger’s clock runs, ppm.' })
  ratePpm: number | null;
  @ApiProperty({ nullable: true, type: Number }) residual: number | null;
  @ApiProperty({ nullable: true, type: Number }) range: number | null;
  @ApiProperty({ nullable: true, type: Number }) correlation: number | null;
  @ApiProperty({ type: [CoveredPullDto] }) pulls: CoveredPullDto[];
}

export class NotLaidDto {
  @ApiProperty({ enum: NOT_LAID }) code: NotLaid['code'];
  @ApiProperty({ description: 'What it means and what to do.' }) text: string;
}

export class AddedChannel {
  @ApiProperty({ description: 'The name that it bears in the pulls.' }) name: string;
  @ApiProperty({ nullable: true, type: Number }) low: number | null;
  @ApiProperty({ nullable: true, type: Number }) high: number | null;
}

export class LoggerRecordDto {
  @ApiProperty() channel: string;
  @ApiProperty({ type: [Number] }) timeS: number[];
  @ApiProperty({ type: 'array', items: { type: 'number', nullable: true } }) values: (number | null)[];
}

export class LaidPictureDto {
  @ApiProperty() pull: string;
  @ApiProperty({ type: [Number] }) timeS: number[];
  @ApiProperty({ type: 'array', items: { type: 'number', nullable: true } }) own: (number | null)[];
  @ApiProperty({ type: 'array', items: { type: 'number', nullable: true } }) theirs: (number | null)[];
}

/** Where a logger's record lies beside the pulls, or why it cannot be laid. */
export class LoggerAnswer {
  @ApiProperty({ nullable: true, type: LaidDto }) laid: LaidDto | null;
  @ApiProperty({ nullable: true, type: NotLaidDto }) why: NotLaidDto | null;
  @ApiProperty({ type: [AddedChannel] }) channels: AddedChannel[];
  @ApiProperty({ type: LoggerRecordDto }) record: LoggerRecordDto;
  @ApiProperty({ type: [LaidPictureDto] }) pictures: LaidPictureDto[];
}

export class LoggerAdded {
  @ApiProperty() id: string;
  @ApiProperty({ type: [String] }) channels: string[];
  @ApiProperty({ type: [String] }) pulls: string[];
}
