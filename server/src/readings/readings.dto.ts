import { ApiProperty } from '@nestjs/swagger';
import { HAND_MOMENTS, LIMITS, type HandMoment } from '@prandel/core';
import { IsIn, IsNumber, IsString, Length } from 'class-validator';
import { NestedList, OrNull, Plausible } from '../http/checks.ts';

export class AirReading {
  @ApiProperty() @Plausible('airC') airC: number;
  @ApiProperty({ description: 'Station pressure, not reduced to sea level.' })
  @Plausible('pressureHpa')
  pressureHpa: number;
  @ApiProperty({ nullable: true, type: Number, description: 'Fraction 0–1.' })
  @OrNull()
  @Plausible('relativeHumidity')
  relativeHumidity: number | null;
}

export class StartReading {
  @ApiProperty({ nullable: true, type: Number, description: 'Degrees Celsius.' })
  @OrNull()
  @Plausible('intakeC')
  intakeStartC: number | null;
  @ApiProperty({ nullable: true, type: Number, description: 'Degrees Celsius.' })
  @OrNull()
  @Plausible('coolantC')
  coolantStartC: number | null;
  @ApiProperty({ nullable: true, type: Number, description: 'Degrees Celsius.' })
  @OrNull()
  @Plausible('oilC')
  oilStartC: number | null;
}

/** A gauge that was read during a pull; without a value it is taken away again. */
export class GaugeDto {
  @ApiProperty() @IsString() @Length(1, 120) pullId: string;
  @ApiProperty({ description: 'Quantity, place and unit: oil_c, oil_bar.' }) @IsString() @Length(1, 61) channel: string;
  @ApiProperty({ enum: HAND_MOMENTS }) @IsIn(HAND_MOMENTS) moment: HandMoment;
  @ApiProperty({ nullable: true, type: Number, description: 'In the unit of the channel’s name.' })
  @OrNull()
  @IsNumber()
  value: number | null;
}

export class GaugesDto {
  @ApiProperty({ type: [GaugeDto] }) @NestedList(() => GaugeDto, LIMITS.handReadings) readings: GaugeDto[];
}
