import { ApiProperty } from '@nestjs/swagger';
import { IsEmail, IsIn, IsInt, IsString, Length, Min } from 'class-validator';
import { LINK_PURPOSES, ROLES, type LinkPurpose, type Role } from '../database/schema.ts';

export class TeamMember {
  @ApiProperty() id: string;
  @ApiProperty() name: string;
  @ApiProperty() email: string;
  @ApiProperty({ enum: ROLES, enumName: 'Role' }) role: Role;
  @ApiProperty() version: number;
  @ApiProperty({ type: String, nullable: true, description: 'When a session of theirs was last used.' })
  lastSeenAt: string | null;
}

export class Invitation {
  @ApiProperty() email: string;
  @ApiProperty({ enum: ROLES, enumName: 'Role' }) role: Role;
  @ApiProperty() id: string;
  @ApiProperty() createdAt: string;
  @ApiProperty() expiresAt: string;
}

export class Team {
  @ApiProperty({ type: [TeamMember] }) people: TeamMember[];
  @ApiProperty({ type: [Invitation], description: 'Not used yet and not over.' }) invitations: Invitation[];
}

export class NewInvitation {
  @ApiProperty() @IsEmail({}, { message: 'Enter an e-mail address.' }) @Length(3, 200) email: string;
  @ApiProperty({ enum: ROLES, enumName: 'Role' })
  @IsIn(ROLES, { message: 'Choose a role.' })
  role: Role;
}

export class RoleChange {
  @ApiProperty({ enum: ROLES, enumName: 'Role' })
  @IsIn(ROLES, { message: 'Choose a role.' })
  role: Role;
  @ApiProperty({ description: 'The version that was on the screen.' }) @IsInt() @Min(1) version: number;
}

/** A link that lets one person in once. */
export class MadeLink {
  @ApiProperty({ description: 'Shown this once; goes behind "#" of the page /join.' }) secret: string;
  @ApiProperty() expiresAt: string;
}

export class LinkSecret {
  @ApiProperty() @IsString() @Length(20, 200, { message: 'The link is not whole. Copy all of it.' }) secret: string;
}

/** What a link is for, for whoever has opened it. */
export class LinkShown {
  @ApiProperty({ enum: LINK_PURPOSES, enumName: 'LinkPurpose' }) purpose: LinkPurpose;
  @ApiProperty() shop: string;
  @ApiProperty() email: string;
  @ApiProperty({ enum: ROLES, enumName: 'Role' }) role: Role;
  @ApiProperty({ type: String, nullable: true, description: 'Null when the person has yet to say it.' })
  name: string | null;
}

export class LinkUse extends LinkSecret {
  @ApiProperty() @IsString() @Length(1, 120, { message: 'Enter your name.' }) name: string;
  @ApiProperty({ minLength: 10 })
  @IsString()
  @Length(10, 200, { message: 'Choose a password of at least ten characters.' })
  password: string;
}
