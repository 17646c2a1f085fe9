import { ApiProperty } from '@nestjs/swagger';
import { IsString, Length } from 'class-validator';
import { Instant, OrNull, Plausible } from '../http/checks.ts';

/** A timed run at full throttle in one gear, between two speeds. */
export class RoadPassDto {
  @ApiProperty() @IsString() @Length(1, 20) setupId: string;
  @ApiProperty({ nullable: true, type: String }) @OrNull() @Instant() at: string | null;
  @ApiProperty({ description: 'A name for the way it went.' })
  @IsString()
  @Length(0, 40)
  direction: string;
  @ApiProperty({ description: 'km/h' }) @Plausible('roadKmH') fromKmH: number;
  @ApiProperty({ description: 'km/h' }) @Plausible('roadKmH') toKmH: number;
  @ApiProperty() @Plausible('roadSeconds') seconds: number;
}

/** What the forecast from the rollers needs of the car. */
export class RoadCarDto {
  @ApiProperty({ description: 'As driven, with driver and fuel, kg.' }) @Plausible('massKg') massKg: number;
  @ApiProperty({ description: 'Gear times final drive.' }) @Plausible('overallRatio') overallRatio: number;
  @ApiProperty({ description: 'Rolling radius, m.' }) @Plausible('tyreRadiusM') tyreRadiusM: number;
  @ApiProperty({ nullable: true, type: Number, description: 'C_d·A, m²; null: fitted to the baseline’s passes.' })
  @OrNull()
  @Plausible('dragAreaM2')
  dragAreaM2: number | null;
  @ApiProperty({ description: 'C_rr' }) @Plausible('rolling') rolling: number;
}
