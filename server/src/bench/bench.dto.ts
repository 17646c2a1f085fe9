import { ApiProperty, ApiPropertyOptional } from '@nestjs/swagger';
import { IsBoolean, IsIn, IsNumber, IsOptional, Max, Min } from 'class-validator';
import { Nested } from '../http/checks.ts';

const FANS = ['on', 'moved', 'off'] as const;

/** How the demo's weather differs from the day's own. */
export class BenchWeather {
  @ApiProperty() @IsNumber() @Min(-40) @Max(40) airC: number;
  @ApiProperty() @IsNumber() @Min(-100) @Max(100) pressureHpa: number;
}

/** Which cables of the demo's instruments are in. */
export class BenchPlugs {
  @ApiPropertyOptional() @IsOptional() @IsBoolean() rollers?: boolean;
  @ApiPropertyOptional() @IsOptional() @IsBoolean() weather?: boolean;
  @ApiPropertyOptional() @IsOptional() @IsBoolean() bus?: boolean;
  @ApiPropertyOptional() @IsOptional() @IsBoolean() aux?: boolean;
}

/** What is done at the bench; what is not named stays. */
export class BenchOrder {
  @ApiPropertyOptional({ description: 'Pressed or lifted.' }) @IsOptional() @IsBoolean() pedal?: boolean;
  @ApiPropertyOptional({ enum: ['A', 'B'], description: 'The setup that is on the car.' })
  @IsOptional()
  @IsIn(['A', 'B'])
  fit?: 'A' | 'B';
  @ApiPropertyOptional({ enum: FANS }) @IsOptional() @IsIn(FANS) fan?: (typeof FANS)[number];
  @ApiPropertyOptional() @IsOptional() @IsBoolean() doorOpen?: boolean;
  @ApiPropertyOptional({ type: BenchWeather }) @IsOptional() @Nested(() => BenchWeather) weather?: BenchWeather;
  @ApiPropertyOptional({ description: 'The tyres slip on the next pull.' })
  @IsOptional()
  @IsBoolean()
  slipNext?: boolean;
  @ApiPropertyOptional({ description: 'The engine controller forgets what it learned.' })
  @IsOptional()
  @IsBoolean()
  resetController?: boolean;
  @ApiPropertyOptional({ description: 'Seconds of the bay a second.' })
  @IsOptional()
  @IsNumber()
  @Min(0)
  @Max(1000)
  speed?: number;
  @ApiPropertyOptional({ description: 'Seconds that pass at once.' })
  @IsOptional()
  @IsNumber()
  @Min(0)
  @Max(2_592_000)
  skipSeconds?: number;
  @ApiPropertyOptional({ type: BenchPlugs }) @IsOptional() @Nested(() => BenchPlugs) plug?: BenchPlugs;
}

/** The bench as it is. */
export class BenchState {
  @ApiProperty({ description: 'The bay’s clock, milliseconds since 1970.' }) atMs: number;
  @ApiProperty() setup: string;
  @ApiProperty({ enum: FANS }) fan: (typeof FANS)[number];
  @ApiProperty() doorOpen: boolean;
  @ApiProperty() pulling: boolean;
  @ApiProperty({ type: BenchWeather }) weather: BenchWeather;
  @ApiProperty() slipNext: boolean;
  @ApiProperty() speed: number;
  @ApiProperty({ type: BenchPlugs }) plugged: BenchPlugs;
}
