import { ApiProperty } from '@nestjs/swagger';
import type { BaselineStanding } from '@prandel/core';

export class ModelRangeSeen {
  @ApiProperty() lowW: number;
  @ApiProperty() highW: number;
  @ApiProperty({ description: 'Cars it was seen on.' }) cars: number;
}

/** A baseline's standing, and how many other cars are still being worked out: ask again. */
export class BaselineAnswer {
  @ApiProperty({ type: Number, nullable: true }) peakW: number | null;
  @ApiProperty({ type: ModelRangeSeen, nullable: true }) range: ModelRangeSeen | null;
  @ApiProperty({ enum: ['low', 'inside', 'high', 'unknown'] }) stands: BaselineStanding['stands'];
  @ApiProperty() waiting: number;
}
