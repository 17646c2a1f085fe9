import { ApiProperty, ApiPropertyOptional } from '@nestjs/swagger';
import { Transform } from 'class-transformer';
import { IsBoolean, IsOptional, IsString, IsUUID, Length } from 'class-validator';

const NUMBER = { nullable: true, type: Number } as const;

export class ShelfSearch {
  @ApiPropertyOptional({ description: 'Beginnings of words, three letters at least, that all have to be there.' })
  @IsOptional()
  @IsString()
  @Length(0, 200)
  q?: string;
  @ApiPropertyOptional({ description: 'Key of the page before.' })
  @IsOptional()
  @IsString()
  @Length(1, 200)
  after?: string;
  @ApiPropertyOptional({ description: 'Only parts that some job ran.' })
  @IsOptional()
  @Transform(({ value }) => value === true || value === 'true')
  @IsBoolean()
  tried?: boolean;
}

/** A part with what is kept of its results on mean power; per cent. */
export class ShelfListed {
  @ApiProperty() id: string;
  @ApiProperty() name: string;
  @ApiProperty() kind: string;
  @ApiProperty({ ...NUMBER, description: 'What its maker promises.' }) promisedPercent: number | null;
  @ApiProperty() cars: number;
  @ApiProperty() jobs: number;
  @ApiProperty(NUMBER) estimate: number | null;
  @ApiProperty({ ...NUMBER, description: 'Interval of the average; null under three cars.' }) low: number | null;
  @ApiProperty(NUMBER) high: number | null;
  @ApiProperty({ ...NUMBER, description: 'What the next car may see; null under three cars.' }) nextLow: number | null;
  @ApiProperty(NUMBER) nextHigh: number | null;
  @ApiProperty({ ...NUMBER, description: 'Standard deviation between cars.' }) spread: number | null;
}

export class ShelfPage {
  @ApiProperty({ type: [ShelfListed] }) parts: ShelfListed[];
  @ApiProperty({ nullable: true, type: String, description: 'Pass as `after` for the next page.' }) next: string | null;
}

export class PartName {
  @ApiProperty() @IsString() @Length(1, 120) name: string;
}

/** What a part is expected to do on the next car, per cent of mean power. */
export class ExpectedGain {
  @ApiProperty({
    nullable: true,
    type: String,
    description: 'The part; null where the record knows none of this name.',
  })
  part: string | null;
  @ApiProperty() cars: number;
  @ApiProperty(NUMBER) estimate: number | null;
  @ApiProperty({ ...NUMBER, description: 'Null under three cars.' }) low: number | null;
  @ApiProperty(NUMBER) high: number | null;
  @ApiProperty(NUMBER) promisedPercent: number | null;
}

export class PartMerge {
  @ApiProperty({ description: 'The part that stays.' }) @IsUUID() into: string;
}
