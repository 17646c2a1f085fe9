import { BadRequestException, Injectable, type ArgumentMetadata, type PipeTransform } from '@nestjs/common';
import { ApiProperty, ApiPropertyOptional, getSchemaPath } from '@nestjs/swagger';
import { STATE_FIELDS } from '@prandel/core';
import { IsBoolean, IsIn, IsNumber, IsOptional, IsString, IsUUID, Length, Matches, Max, Min } from 'class-validator';
import { Nested, OrNull } from '../http/checks.ts';
import { validation } from '../http/problem.ts';

// What is done on the run sheet: one class an action, told apart by `action`.

type Class<T> = new () => T;

function Is<T extends string>(...actions: readonly T[]): PropertyDecorator {
  return (target, key) => {
    ApiProperty({ enum: [...actions] })(target, key);
    IsIn(actions)(target, key);
  };
}

function Setup(): PropertyDecorator {
  return (target, key) => {
    IsString()(target, key);
    Length(1, 20)(target, key);
  };
}

const reason = (message: string): PropertyDecorator => {
  return (target, key) => {
    ApiProperty({ minLength: 1, maxLength: 400 })(target, key);
    IsString({ message })(target, key);
    Length(1, 400, { message })(target, key);
    Matches(/\S/, { message })(target, key);
  };
};

/** Actions that need no more than their name. */
const PLAIN = ['extra-settle', 'withdraw-override', 'keep', 'resume-round', 'extend', 'acknowledge-stop'] as const;

export class PlainAction {
  @Is(...PLAIN) action: (typeof PLAIN)[number];
}

export class OpenJob {
  @Is('open-job') action: 'open-job';
  @ApiProperty({ description: 'The job whose car is on the rollers.' })
  @IsUUID(undefined, { message: 'Name the job to open.' })
  job: string;
}

export class StartRound {
  @Is('start-round') action: 'start-round';
  @ApiPropertyOptional({ description: 'The setup that is on; the present one when none is named.' })
  @IsOptional()
  @Setup()
  setup?: string;
}

export class OverrideGate {
  @Is('override') action: 'override';
  @reason('Give a reason for overriding the gate.') reason: string;
}

export class SetAside {
  @Is('set-aside') action: 'set-aside';
  @ApiPropertyOptional({ description: 'The pull; the last one when none is named.' })
  @IsOptional()
  @IsString()
  @Length(1, 120)
  pull?: string;
  @reason('Give a reason for setting the pull aside.') reason: string;
}

export class CloseRound {
  @Is('close-round') action: 'close-round';
  @reason('Say why the round is closed before its plan is in: heat, time or breakage.') reason: string;
}

export class SetPointSet {
  @Is('set-point') action: 'set-point';
  @ApiProperty({ enum: STATE_FIELDS, description: 'The state that was set as the baseline had it.' })
  @IsIn(STATE_FIELDS, { message: 'Name what was set.' })
  state: (typeof STATE_FIELDS)[number];
}

export class StartFitting {
  @Is('start-fitting') action: 'start-fitting';
  @ApiProperty() @IsString({ message: 'Name the setup that is fitted.' }) @Length(1, 20) setup: string;
}

export class FitNew {
  @Is('fit-new') action: 'fit-new';
  @ApiProperty({ description: 'The setup that something new is fitted on top of; words follow at the desk.' })
  @IsString({ message: 'Name the setup that it is fitted on top of.' })
  @Length(1, 20)
  parent: string;
}

export class FittingWords {
  @ApiPropertyOptional() @IsOptional() @IsString() @Length(0, 400) changed?: string;
  @ApiPropertyOptional() @IsOptional() @IsString() @Length(0, 400) disturbed?: string;
  @ApiPropertyOptional() @IsOptional() @IsString() @Length(0, 400) parts?: string;
  @ApiPropertyOptional({ nullable: true, type: Number }) @OrNull() @IsNumber() @Min(0) @Max(1e9) cost?: number | null;
  @ApiPropertyOptional() @IsOptional() @IsString() @Length(0, 2000) notes?: string;
}

export class StopFitting {
  @Is('stop-fitting') action: 'stop-fitting';
  @ApiPropertyOptional({ type: FittingWords })
  @OrNull()
  @Nested(() => FittingWords)
  fitting?: FittingWords | null;
}

export class WriteNote {
  @Is('note') action: 'note';
  @reason('Write or tap a note.') reason: string;
}

export class Leave {
  @Is('leave') action: 'leave';
  @ApiPropertyOptional({ description: 'Whether the aids that were off for the rollers are on again.' })
  @IsOptional()
  @IsBoolean()
  driverAidsRestored?: boolean;
}

export type SheetAction =
  | PlainAction
  | OpenJob
  | StartRound
  | OverrideGate
  | SetAside
  | CloseRound
  | SetPointSet
  | StartFitting
  | FitNew
  | StopFitting
  | WriteNote
  | Leave;

const BY_ACTION: Readonly<Record<SheetAction['action'], Class<SheetAction>>> = {
  ...(Object.fromEntries(PLAIN.map((action) => [action, PlainAction])) as Record<
    (typeof PLAIN)[number],
    Class<PlainAction>
  >),
  'open-job': OpenJob,
  'start-round': StartRound,
  override: OverrideGate,
  'set-aside': SetAside,
  'close-round': CloseRound,
  'set-point': SetPointSet,
  'start-fitting': StartFitting,
  'fit-new': FitNew,
  'stop-fitting': StopFitting,
  note: WriteNote,
  leave: Leave,
};

/** For the document. */
export const SHEET_ACTION_CLASSES = [...new Set(Object.values(BY_ACTION))];
export const SHEET_ACTION_SCHEMA = {
  oneOf: SHEET_ACTION_CLASSES.map((of) => ({ $ref: getSchemaPath(of) })),
};

/** Checks a body against the class of its action. */
@Injectable()
export class SheetActionPipe implements PipeTransform<unknown, Promise<SheetAction>> {
  readonly #validation = validation();

  transform(value: unknown, metadata: ArgumentMetadata): Promise<SheetAction> {
    const action = typeof value === 'object' && value !== null ? (value as { action?: unknown }).action : undefined;
    const metatype =
      typeof action === 'string' && Object.hasOwn(BY_ACTION, action)
        ? BY_ACTION[action as SheetAction['action']]
        : null;
    if (!metatype) {
      const message = `Name an action: ${Object.keys(BY_ACTION).join(', ')}.`;
      throw new BadRequestException({ message, errors: [{ path: 'action', message }] });
    }
    return this.#validation.transform(value, { ...metadata, metatype }) as Promise<SheetAction>;
  }
}
