import { ApiProperty, ApiPropertyOptional } from '@nestjs/swagger';
import { IsIn, IsNumber, IsString, Length, Max, Min } from 'class-validator';
import { OrNull, Plausible } from '../http/checks.ts';

/** A correction standard of the shop's own: a reference with its efficiency, or a factor that a sheet prints. */
export class NewStandard {
  @ApiProperty() @IsString() @Length(1, 60, { message: 'Name the standard.' }) name: string;
  @ApiProperty({ enum: ['reference', 'factor'] }) @IsIn(['reference', 'factor']) kind: 'reference' | 'factor';
  @ApiPropertyOptional({ nullable: true, type: Number }) @OrNull() @Plausible('airC') referenceC?: number | null;
  @ApiPropertyOptional({ nullable: true, type: Number }) @OrNull() @Plausible('pressureHpa') referenceHpa?:
    number | null;
  @ApiPropertyOptional({ nullable: true, enum: ['dry', 'total'], type: String })
  @OrNull()
  @IsIn(['dry', 'total'])
  pressure?: 'dry' | 'total' | null;
  @ApiPropertyOptional({ nullable: true, type: Number, description: 'Mechanical efficiency, over 0 up to 1.' })
  @OrNull()
  @IsNumber()
  @Min(0.3)
  @Max(1)
  mechanicalEfficiency?: number | null;
  @ApiPropertyOptional({ nullable: true, type: Number }) @OrNull() @IsNumber() @Min(0.2) @Max(5) factor?: number | null;
}

export class StandardRow {
  @ApiProperty() id: string;
  @ApiProperty() name: string;
  @ApiProperty({ enum: ['reference', 'factor'] }) kind: 'reference' | 'factor';
  @ApiProperty({ nullable: true, type: Number }) referenceC: number | null;
  @ApiProperty({ nullable: true, type: Number }) referenceHpa: number | null;
  @ApiProperty({ nullable: true, enum: ['dry', 'total'], type: String }) pressure: 'dry' | 'total' | null;
  @ApiProperty({ nullable: true, type: Number }) mechanicalEfficiency: number | null;
  @ApiProperty({ nullable: true, type: Number }) factor: number | null;
}

export class SheetPull {
  @ApiProperty() name: string;
  @ApiProperty({ nullable: true, type: Number }) peakPowerW: number | null;
  @ApiProperty({ nullable: true, type: Number }) peakTorqueNm: number | null;
  @ApiProperty({ nullable: true, type: String, description: 'Standard that the file names.' }) standard: string | null;
  @ApiProperty({ nullable: true, type: Number, description: 'Factor that the file prints.' }) factor: number | null;
  @ApiProperty({ nullable: true, type: Number }) airC: number | null;
  @ApiProperty({ nullable: true, type: Number }) pressureHpa: number | null;
  @ApiProperty({ nullable: true, type: Number }) relativeHumidity: number | null;
}
