import { ApiProperty } from '@nestjs/swagger';
import { OrNull, Plausible } from '../http/checks.ts';

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
