import { ApiProperty } from '@nestjs/swagger';
import { IsBoolean, IsInt, IsString, Length, Max, Min } from 'class-validator';
import { OrNull } from '../http/checks.ts';

const KEY_STATES = ['there', 'missing', 'other'] as const;

export class KnownKey {
  @ApiProperty({ description: 'The 32 bytes of an Ed25519 key, base64.' }) publicKey: string;
  @ApiProperty({ description: '16 groups of 4 hexadecimal digits of its SHA-256.' }) fingerprint: string;
  @ApiProperty() madeAt: string;
  @ApiProperty() madeBy: string;
  @ApiProperty({ type: String, nullable: true, description: 'Since when another key is in force.' })
  retiredAt: string | null;
  @ApiProperty({ type: String, nullable: true, description: 'What the key before it signed; canonical JSON.' })
  changeText: string | null;
  @ApiProperty({ type: String, nullable: true, description: 'Its Ed25519 signature, base64.' })
  changeSignature: string | null;
}

/** The key under which a shop seals, and those before it. */
export class ShopKeyAnswer {
  @ApiProperty({ type: KnownKey }) key: KnownKey;
  @ApiProperty({ enum: KEY_STATES, description: 'How the key file stands: there, gone, or that of another key.' })
  state: (typeof KEY_STATES)[number];
  @ApiProperty({ description: 'Where the file lies in the data folder.' }) file: string;
  @ApiProperty({ type: [KnownKey], description: 'Newest first, the one in force included.' }) history: KnownKey[];
}

export class KeyChangeRequest {
  @ApiProperty({ description: 'The file of the old key is gone for good: it cannot sign the new one.' })
  @IsBoolean()
  lost: boolean;
}

export class Reopening {
  @ApiProperty()
  @IsString()
  @Length(3, 500, { message: 'Say in a few words why the job is reopened.' })
  reason: string;
}

export class NewShareLink {
  @ApiProperty({ description: 'Whom the link is for.' })
  @IsString()
  @Length(1, 120, { message: 'Say whom the link is for, in up to 120 letters.' })
  label: string;
  @ApiProperty({ type: Number, nullable: true, description: 'After how many days it ends; null: it does not.' })
  @OrNull()
  @IsInt()
  @Min(1)
  @Max(3650)
  days: number | null;
}

export class MadeShareLink {
  @ApiProperty({ format: 'uuid' }) id: string;
  @ApiProperty({ description: 'Shown this once: the address is /s/ and this.' }) token: string;
}

export class ShareLinkAnswer {
  @ApiProperty({ format: 'uuid' }) id: string;
  @ApiProperty() label: string;
  @ApiProperty() madeAt: string;
  @ApiProperty() madeBy: string;
  @ApiProperty({ type: String, nullable: true }) expiresAt: string | null;
  @ApiProperty({ type: String, nullable: true }) withdrawnAt: string | null;
  @ApiProperty() views: number;
  @ApiProperty({ type: String, nullable: true }) lastViewedAt: string | null;
}

/** A sealing of a job. */
export class SealAnswer {
  @ApiProperty({ format: 'uuid' }) id: string;
  @ApiProperty() n: number;
  @ApiProperty() sealedAt: string;
  @ApiProperty() by: string;
  @ApiProperty() fingerprint: string;
  @ApiProperty({ description: 'SHA-256 of seal.json.' }) sha256: string;
  @ApiProperty({ type: String, nullable: true }) reopenedAt: string | null;
  @ApiProperty({ type: String, nullable: true }) reopenedBy: string | null;
  @ApiProperty({ type: String, nullable: true }) reopenReason: string | null;
  @ApiProperty({ type: [ShareLinkAnswer] }) links: ShareLinkAnswer[];
}
