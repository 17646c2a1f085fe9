import { ApiProperty } from '@nestjs/swagger';
import type { DiskState } from './disk.ts';

/** What an operator's monitor needs to know; nothing in it names a shop, a person or a car. */
export class Health {
  @ApiProperty({ description: 'This process answers.' }) live: boolean;
  @ApiProperty({ description: 'Everything that people need works.' }) ready: boolean;
  @ApiProperty({ enum: ['ok', 'away'] }) database: 'ok' | 'away';
  @ApiProperty({
    description: 'Longest time for which this process could not turn to anything else, since it was asked last, ms.',
  })
  longestStallMs: number;
  @ApiProperty({ enum: ['ok', 'low', 'full', 'unknown'] }) disk: DiskState['state'] | 'unknown';
  @ApiProperty({ nullable: true, type: Number }) diskFreeBytes: number | null;
  @ApiProperty({ enum: ['ok', 'away'], description: 'The process of the bays.' }) bays: 'ok' | 'away';
  @ApiProperty({ nullable: true, type: Number, description: 'Bays that the process of the bays leads.' })
  baysLed: number | null;
  @ApiProperty({ nullable: true, type: Number, description: 'Bays that cannot record, or that another process leads.' })
  baysNotLed: number | null;
  @ApiProperty({ nullable: true, type: Number, description: 'Samples that nothing could store yet.' })
  waitingSamples: number | null;
  @ApiProperty({ nullable: true, type: Number, description: 'Recordings that wait for a person.' })
  quarantined: number | null;
}
