import { ApiProperty, ApiPropertyOptional } from '@nestjs/swagger';
import {
  ArrayMinSize,
  IsIn,
  IsInt,
  IsNumber,
  IsOptional,
  IsString,
  Length,
  Matches,
  Max,
  Min,
  NotEquals,
} from 'class-validator';
import { BAY_KINDS } from '../database/schema.ts';
import { DeviceHost, LossTorque, Nested, NestedList, OrNull, Plausible, Version } from '../http/checks.ts';

export class AddressDto {
  @ApiProperty() @IsString() @Length(1, 253) @DeviceHost() host: string;
  @ApiProperty() @IsInt() @Min(1) @Max(65535) port: number;
}

export class RegisterChannelDto {
  @ApiProperty() @Matches(/^[a-z][a-z0-9_]{0,59}$/, { message: 'A channel is named like charge_c.' }) name: string;
  @ApiProperty({ description: 'Offset from the base.' }) @IsInt() @Min(0) @Max(124) register: number;
  @ApiProperty({ enum: ['int16', 'float32'] }) @IsIn(['int16', 'float32']) kind: 'int16' | 'float32';
  @ApiProperty() @IsNumber() @NotEquals(0) scale: number;
}

/** Where the auxiliary channels lie in the device's holding registers. */
export class RegisterMapDto {
  @ApiProperty() @IsInt() @Min(0) @Max(255) unit: number;
  @ApiProperty() @IsInt() @Min(0) @Max(65_535) base: number;
  @ApiProperty({ enum: ['big', 'little'] }) @IsIn(['big', 'little']) wordOrder: 'big' | 'little';
  @ApiProperty({ type: [RegisterChannelDto] })
  @ArrayMinSize(1)
  @NestedList(() => RegisterChannelDto, 32)
  channels: RegisterChannelDto[];
}

export class InstrumentsDto {
  @ApiPropertyOptional({ type: AddressDto, nullable: true })
  @OrNull()
  @Nested(() => AddressDto)
  rollers?: AddressDto | null;
  @ApiPropertyOptional({ type: AddressDto, nullable: true })
  @OrNull()
  @Nested(() => AddressDto)
  weather?: AddressDto | null;
  @ApiPropertyOptional({ type: AddressDto, nullable: true })
  @OrNull()
  @Nested(() => AddressDto)
  bus?: AddressDto | null;
  @ApiPropertyOptional({ type: AddressDto, nullable: true })
  @OrNull()
  @Nested(() => AddressDto)
  aux?: AddressDto | null;
  @ApiPropertyOptional({ type: RegisterMapDto })
  @OrNull()
  @Nested(() => RegisterMapDto)
  registers?: RegisterMapDto;
}

/** What a bay's rollers are; what is absent in a change stays as it is. */
export class RollersDto {
  @ApiPropertyOptional({ nullable: true, type: String, enum: BAY_KINDS })
  @OrNull()
  @IsIn(BAY_KINDS)
  kind?: (typeof BAY_KINDS)[number] | null;
  @ApiPropertyOptional({ nullable: true, type: Number })
  @OrNull()
  @Plausible('rollerInertiaKgM2')
  rollerInertiaKgM2?: number | null;
  @ApiPropertyOptional({
    nullable: true,
    type: [Number],
    description: 'Loss torque of the empty rollers c0 + c1·ω + c2·ω², N·m with ω in rad/s.',
  })
  @OrNull()
  @LossTorque()
  lossTorqueNm?: [number, number, number] | null;
  @ApiPropertyOptional({ description: 'What the read-out is multiplied by; 1 is native.' })
  @IsOptional()
  @IsNumber()
  @Min(0.5)
  @Max(2)
  readoutScale?: number;
  @ApiPropertyOptional({ nullable: true, type: Number }) @OrNull() @Plausible('elevationM') elevationM?: number | null;
  @ApiPropertyOptional({ nullable: true, type: String })
  @OrNull()
  @IsString()
  @Length(1, 40)
  calibrationEpoch?: string | null;
}

export class NewBay {
  @ApiProperty() @IsString() @Length(1, 60, { message: 'Name the bay.' }) label: string;
  @ApiProperty({ type: RollersDto }) @Nested(() => RollersDto) rollers: RollersDto;
  @ApiProperty({ type: InstrumentsDto })
  @Nested(() => InstrumentsDto)
  instruments: InstrumentsDto;
}

/** Named fields of a bay; the others stay as they are. */
export class BayEdit {
  @ApiPropertyOptional({ description: 'The version that was read; a newer one refuses the edit.' })
  @IsOptional()
  @Version()
  version?: number;
  @ApiPropertyOptional() @IsOptional() @IsString() @Length(1, 60, { message: 'Name the bay.' }) label?: string;
  @ApiPropertyOptional({ type: RollersDto }) @IsOptional() @Nested(() => RollersDto) rollers?: RollersDto;
  @ApiPropertyOptional({ type: InstrumentsDto })
  @IsOptional()
  @Nested(() => InstrumentsDto)
  instruments?: InstrumentsDto;
}

/** A recording that could not become a pull; it is kept with its samples until a person decides. */
export class QuarantinedRecording {
  @ApiProperty() id: string;
  @ApiProperty() startedAt: string;
  @ApiProperty() quarantinedAt: string;
  @ApiProperty() reason: string;
  @ApiProperty() setup: string;
  @ApiProperty({ nullable: true, type: String }) jobId: string | null;
  @ApiProperty({ nullable: true, type: String }) jobTitle: string | null;
  @ApiProperty() samples: number;
}

/** A bay that was deleted and can still be brought back. */
export class DeletedBay {
  @ApiProperty() id: string;
  @ApiProperty() label: string;
  @ApiProperty() deletedAt: string;
}

/** The pull that a quarantined recording became. */
export class PullMade {
  @ApiProperty() pull: string;
}
