import { ApiProperty } from '@nestjs/swagger';
import { COMPLAINTS, LOOK_RESULTS, type Complaint, type SearchLook } from '@prandel/core';
import { IsIn, IsNumber, IsString, Length, Max, Min } from 'class-validator';
import { OrNull } from '../http/checks.ts';

export class NewSearch {
  @ApiProperty({ enum: COMPLAINTS }) @IsIn(COMPLAINTS) complaint: Complaint;
  @ApiProperty({ description: 'What is wrong, in the customer’s words.' })
  @IsString()
  @Length(0, 300)
  words: string;
  @ApiProperty({ description: 'Minutes that may be spent.' })
  @IsNumber()
  @Min(5)
  @Max(1440)
  budgetMinutes: number;
}

export class NewLook {
  @ApiProperty() @IsString() @Length(1, 40) suspect: string;
  @ApiProperty({ enum: LOOK_RESULTS, description: 'found: it is the culprit and not put right yet.' })
  @IsIn(LOOK_RESULTS)
  result: SearchLook['result'];
  @ApiProperty({ type: Number, nullable: true, description: 'What it really took; null: as the suspect says.' })
  @OrNull()
  @IsNumber()
  @Min(0)
  @Max(1440)
  minutes: number | null;
  @ApiProperty({ type: String, nullable: true, description: 'The pull that showed it; null: by inspection.' })
  @OrNull()
  @IsString()
  @Length(1, 120)
  pull: string | null;
}
