import {
  BadRequestException,
  Catch,
  HttpException,
  Logger,
  ValidationPipe,
  type ArgumentsHost,
  type ExceptionFilter,
  type ValidationError,
} from '@nestjs/common';
import { UnreadableError } from '@prandel/formats';
import type { Response } from 'express';
import { databaseAway, loggable } from '../database/faults.ts';

interface FieldError {
  readonly path: string;
  readonly message: string;
}

/** Answers every error as an RFC 9457 problem document: what, where, and what to do. */
@Catch()
export class ProblemFilter implements ExceptionFilter {
  catch(error: unknown, host: ArgumentsHost): void {
    const response = host.switchToHttp().getResponse<Response>();
    const body = describe(error);
    response.status(body.status).type('application/problem+json').send(JSON.stringify(body));
  }
}

function describe(error: unknown): { status: number; title: string; detail: string; [key: string]: unknown } {
  if (error instanceof UnreadableError)
    return {
      type: 'about:blank',
      status: 422,
      title: 'This could not be read',
      detail: error.message,
      problems: error.problems,
    };
  if (error instanceof HttpException) {
    const answer = error.getResponse();
    const extra = typeof answer === 'object' ? (answer as Record<string, unknown>) : {};
    return {
      type: 'about:blank',
      status: error.getStatus(),
      title: typeof extra.title === 'string' ? extra.title : error.name.replace(/Exception$/, ''),
      detail: error.message,
      ...(extra.errors ? { errors: extra.errors } : {}),
    };
  }
  const status = (error as { status?: number; statusCode?: number })?.status;
  if (status === 413 || (error as { code?: string })?.code === 'LIMIT_FILE_SIZE')
    return {
      type: 'about:blank',
      status: 413,
      title: 'Too large',
      detail: 'The file is larger than 200 MB. Export one pull at a time.',
    };
  if (databaseAway(error))
    return {
      type: 'about:blank',
      status: 503,
      title: 'The database does not answer',
      detail:
        'The database does not answer or can take nothing right now. Look whether your last step is there before you repeat it. Pulls wait in the server’s memory meanwhile, so do not stop it; start the database or free its disk.',
    };
  new Logger('Server').error(loggable(error));
  return {
    type: 'about:blank',
    status: 500,
    title: 'Something went wrong here',
    detail:
      'Look whether your last step is there before you repeat it. If this happens again, look at the server’s log.',
  };
}

/** Checks every body against its DTO and names the fields that are wrong. */
export function validation(): ValidationPipe {
  return new ValidationPipe({
    transform: true,
    whitelist: true,
    forbidNonWhitelisted: true,
    exceptionFactory: (errors) => {
      const fields = flatten(errors, '');
      return new BadRequestException({
        title: 'Some fields are wrong',
        message: fields.map((f) => f.message).join('; '),
        errors: fields,
      });
    },
  });
}

function flatten(errors: readonly ValidationError[], above: string): FieldError[] {
  return errors.flatMap((e) => {
    const path = above ? `${above}.${e.property}` : e.property;
    const own = Object.values(e.constraints ?? {}).map((message) => ({ path, message }));
    return [...own, ...flatten(e.children ?? [], path)];
  });
}
