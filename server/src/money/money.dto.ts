import { ApiProperty } from '@nestjs/swagger';
import { IsNumber, IsString, Length, Max, Min } from 'class-validator';
import { OrNull } from '../http/checks.ts';

/** What a shop reckons costs with. */
export class MoneyDto {
  @ApiProperty({ nullable: true, type: String, description: 'As it is printed: EUR, £ …' })
  @OrNull()
  @IsString()
  @Length(1, 20, { message: 'Name the currency in up to 20 letters, or leave it out.' })
  currency: string | null;
  @ApiProperty({ nullable: true, type: Number, description: 'An hour of fitting.' })
  @OrNull()
  @IsNumber()
  @Min(0)
  @Max(1e6)
  hourlyRate: number | null;
}
