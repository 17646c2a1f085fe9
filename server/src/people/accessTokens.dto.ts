import { ApiProperty, ApiPropertyOptional } from '@nestjs/swagger';
import { IsIn, IsOptional, IsString, IsUUID, Length } from 'class-validator';
import { TOKEN_SCOPES, type TokenScope } from '../database/schema.ts';

export class NewAccessToken {
  @ApiProperty({ description: 'What uses it.', example: 'The rollers’ computer' })
  @IsString()
  @Length(1, 80, { message: 'Name the program or computer that will use it.' })
  name: string;
  @ApiProperty({ enum: TOKEN_SCOPES, enumName: 'TokenScope' })
  @IsIn(TOKEN_SCOPES, { message: 'Choose what the token is for.' })
  scope: TokenScope;
  @ApiPropertyOptional({ description: 'For upload-to-bay: the one bay for whose job it brings files.' })
  @IsOptional()
  @IsUUID()
  bayId?: string;
}

export class AccessTokenRow {
  @ApiProperty() id: string;
  @ApiProperty() name: string;
  @ApiProperty({ enum: TOKEN_SCOPES, enumName: 'TokenScope' }) scope: TokenScope;
  @ApiProperty({ type: String, nullable: true, description: 'Label of its bay.' }) bay: string | null;
  @ApiProperty({ description: 'Who made it.' }) madeBy: string;
  @ApiProperty() createdAt: string;
  @ApiProperty({ type: String, nullable: true }) lastUsedAt: string | null;
}

export class MadeAccessToken extends AccessTokenRow {
  @ApiProperty({ description: 'Shown this once.' }) token: string;
}
