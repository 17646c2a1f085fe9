import { ApiProperty } from '@nestjs/swagger';
import { IsEmail, IsObject, IsString, Length } from 'class-validator';
import { ROLES, type Role } from '../database/schema.ts';

export class SignIn {
  @ApiProperty() @IsEmail({}, { message: 'Enter an e-mail address.' }) @Length(3, 200) email: string;
  @ApiProperty() @IsString() @Length(1, 200, { message: 'Enter the password.' }) password: string;
}

export class FirstStart extends SignIn {
  @ApiProperty() @IsString() @Length(1, 120, { message: 'Name the shop.' }) shop: string;
  @ApiProperty() @IsString() @Length(1, 120, { message: 'Enter your name.' }) name: string;
  @ApiProperty({ minLength: 10 })
  @IsString()
  @Length(10, 200, { message: 'Choose a password of at least ten characters.' })
  declare password: string;
  @ApiProperty({ description: 'Printed where the server was started.' })
  @IsString()
  @Length(1, 100, { message: 'Enter the set-up code that was printed when Prandel started.' })
  setupCode: string;
}

export class PasswordChange {
  @ApiProperty() @IsString() @Length(1, 200, { message: 'Enter your present password.' }) current: string;
  @ApiProperty({ minLength: 10 })
  @IsString()
  @Length(10, 200, { message: 'Choose a password of at least ten characters.' })
  next: string;
}

export class UnitChoice {
  @ApiProperty({ type: 'object', additionalProperties: { type: 'string' }, example: { power: 'hp', torque: 'lb·ft' } })
  @IsObject()
  units: Record<string, string>;
}

export class SignedIn {
  @ApiProperty() shop: string;
  @ApiProperty() name: string;
  @ApiProperty() email: string;
  @ApiProperty({ enum: ROLES, enumName: 'Role' }) role: Role;
  @ApiProperty({ type: 'object', additionalProperties: { type: 'string' } }) units: Record<string, string>;
}

/** Where somebody is signed in. */
export class SessionRow {
  @ApiProperty() id: string;
  @ApiProperty() createdAt: string;
  @ApiProperty() lastSeenAt: string;
  @ApiProperty({ description: 'What the browser calls itself.' }) userAgent: string;
  @ApiProperty() address: string;
  @ApiProperty({ description: 'The session that asks.' }) own: boolean;
}

export class EndedSessions {
  @ApiProperty() ended: number;
}

export class Status {
  @ApiProperty({ description: 'No shop has been set up yet.' }) firstStart: boolean;
}
