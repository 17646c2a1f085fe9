import { ApiProperty } from '@nestjs/swagger';
import { IsIn, IsNumber, IsString, Length, Max, Min } from 'class-validator';
import { SIGNAL_ANSWERS, type SignalAnswer } from '../database/schema.ts';

const ANSWERED = ['reference', 'second'] as const;
const SOURCES = ['instrument', 'airport'] as const;

export class NewSignalAnswer {
  @ApiProperty({ enum: ANSWERED }) @IsIn(ANSWERED) chart: (typeof ANSWERED)[number];
  @ApiProperty({ enum: SIGNAL_ANSWERS, description: 'What was found; the first three begin the chart anew.' })
  @IsIn(SIGNAL_ANSWERS)
  answer: SignalAnswer;
  @ApiProperty({ description: 'What was done, in words.' })
  @IsString()
  @Length(0, 500)
  words: string;
}

export class NewSecondReading {
  @ApiProperty({ enum: SOURCES, description: 'Another instrument in the bay, or the QNH of the nearest airport.' })
  @IsIn(SOURCES)
  source: (typeof SOURCES)[number];
  @ApiProperty({ description: 'What the bay’s own station reads, hPa.' })
  @IsNumber()
  @Min(500)
  @Max(1100)
  ownHpa: number;
  @ApiProperty({ description: 'Station pressure of the other instrument, or the airport’s QNH, hPa.' })
  @IsNumber()
  @Min(500)
  @Max(1100)
  otherHpa: number;
}
