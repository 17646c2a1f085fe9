import { ApiProperty } from '@nestjs/swagger';
import { Type } from 'class-transformer';
import { Plausible } from '../http/checks.ts';
import { ProblemDto } from '../imports/imports.dto.ts';

/** Between which speeds passes are looked for, km/h. */
export class SpeedsQuery {
  @ApiProperty() @Type(() => Number) @Plausible('roadKmH') fromKmH: number;
  @ApiProperty() @Type(() => Number) @Plausible('roadKmH') toKmH: number;
}

export class FoundPassDto {
  @ApiProperty({ description: 'Second of the log.' }) fromS: number;
  @ApiProperty() seconds: number;
  @ApiProperty({ description: 'The throttle was lifted or a gear was changed.' }) broken: boolean;
  @ApiProperty({ description: 'Point of the compass; empty where the log does not know it.' }) direction: string;
  @ApiProperty({ nullable: true, type: String }) at: string | null;
}

/** Passes that were found in a log of road speed, and the log, thinned, to look at. */
export class SpeedLogRead {
  @ApiProperty({ enum: ['csv', 'nmea'] }) kind: 'csv' | 'nmea';
  @ApiProperty({ type: [FoundPassDto] }) passes: FoundPassDto[];
  @ApiProperty({ type: [Number] }) timeS: number[];
  @ApiProperty({ type: 'array', items: { type: 'number', nullable: true } }) speedKmH: (number | null)[];
  @ApiProperty({ type: [ProblemDto], description: 'Lines that were left out.' }) problems: ProblemDto[];
}
