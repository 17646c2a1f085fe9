import { ApiProperty, ApiPropertyOptional } from '@nestjs/swagger';
import { IsIn, IsObject, IsOptional, IsString, Length } from 'class-validator';
import { Version } from '../http/checks.ts';
import { RECORD_KINDS, type RecordKind } from './recordFields.ts';

const FIELDS = { type: 'object', additionalProperties: true, description: 'Facts by name.' } as const;

export class NewRecord {
  @ApiProperty({ enum: RECORD_KINDS }) @IsIn(RECORD_KINDS) kind: RecordKind;
  @ApiProperty() @IsString() @Length(1, 120, { message: 'Give it a name.' }) label: string;
  @ApiProperty(FIELDS) @IsObject() fields: Record<string, unknown>;
}

export class RecordEdit {
  @ApiProperty({ description: 'The version that was read; a newer one refuses the edit.' }) @Version() version: number;
  @ApiPropertyOptional() @IsOptional() @IsString() @Length(1, 120, { message: 'Give it a name.' }) label?: string;
  @ApiPropertyOptional(FIELDS) @IsOptional() @IsObject() fields?: Record<string, unknown>;
}

export class RecordSearch {
  @ApiProperty({ enum: RECORD_KINDS })
  @IsIn(RECORD_KINDS, { message: `Name a kind: ${RECORD_KINDS.join(', ')}.` })
  kind: RecordKind;
  @ApiPropertyOptional({ description: 'Key of the page before.' })
  @IsOptional()
  @IsString()
  @Length(1, 200)
  after?: string;
  @ApiPropertyOptional({ description: 'Beginnings of words, three letters at least, that all have to be there.' })
  @IsOptional()
  @IsString()
  @Length(0, 200)
  q?: string;
}

export class RecordRow {
  @ApiProperty() id: string;
  @ApiProperty({ enum: RECORD_KINDS }) kind: RecordKind;
  @ApiProperty() label: string;
  @ApiProperty() version: number;
  @ApiProperty(FIELDS) fields: Record<string, unknown>;
}

export class RecordPage {
  @ApiProperty({ type: [RecordRow] }) records: RecordRow[];
  @ApiProperty({ nullable: true, type: String, description: 'Pass as `after` for the next page.' }) next: string | null;
}

export class RecordAdded {
  @ApiProperty() id: string;
}

/** What a car loses of its mean power per °C of start temperature above the bay's air, by all of its jobs. */
export class VehicleHeat {
  @ApiProperty({ description: 'Above zero: heat costs power.' }) percentPerC: number;
  @ApiProperty() low: number;
  @ApiProperty() high: number;
  @ApiProperty() jobs: number;
}

export class VehicleHeatAnswer {
  @ApiProperty({ nullable: true, type: VehicleHeat, description: 'Null: no job of the car tells it.' })
  heat: VehicleHeat | null;
}
