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
import { databaseAway, loggable, sqlState } from '../database/faults.ts';
import { CancelledError } from '../work/cancelled.ts';

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
    if (response.headersSent) return void response.destroy();
    if (typeof body.retryAfterS === 'number') response.setHeader('Retry-After', String(body.retryAfterS));
    response.status(body.status).type('application/problem+json').send(JSON.stringify(body));
  }
}

type ProblemBody = { status: number; title: string; detail: string; [key: string]: unknown };

const problem = (status: number, title: string, detail: string, more: object = {}): ProblemBody => ({
  type: 'about:blank',
  status,
  title,
  detail,
  ...more,
});

/** SQLSTATE of what a client sent and the database cannot hold, with what is said of it. */
const REFUSED: readonly [RegExp, () => ProblemBody][] = [
  [
    /^23505$/,
    () => problem(409, 'There already', 'Something of this name or key is there already. Load it again and look.'),
  ],
  [
    /^23503$/,
    () => problem(409, 'Not there any more', 'Something that this belongs to is not there any more. Load it again.'),
  ],
  [
    /^(22|23)/,
    () =>
      problem(
        400,
        'Cannot be stored',
        'A value of this request cannot be stored: it is too large or holds odd characters.',
      ),
  ],
  [
    /^(40|55P03)/,
    () =>
      problem(409, 'Changed at once', 'Somebody else changed this in the same moment. Look, then repeat your change.'),
  ],
  [/^57014$/, () => problem(503, 'Took too long', 'The database took too long for this. Try again.')],
];

function describe(error: unknown): ProblemBody {
  if (error instanceof UnreadableError)
    return problem(422, 'This could not be read', error.message, { problems: error.problems });
  if (error instanceof CancelledError) return problem(499, 'Cancelled', error.message);
  if (error instanceof HttpException) {
    const answer = error.getResponse();
    const extra = typeof answer === 'object' ? (answer as Record<string, unknown>) : {};
    return problem(
      error.getStatus(),
      typeof extra.title === 'string' ? extra.title : error.name.replace(/Exception$/, ''),
      error.message,
      {
        ...(extra.errors ? { errors: extra.errors } : {}),
        ...(extra.retryAfterS ? { retryAfterS: extra.retryAfterS } : {}),
      },
    );
  }
  const { code, ...own } = error as { status?: number; statusCode?: number; code?: string };
  const status = own.status ?? own.statusCode;
  if (status === 413 || code === 'LIMIT_FILE_SIZE')
    return problem(
      413,
      'Too large',
      'This is larger than is taken: 200 MB a file, 1 MB of anything else. Export one pull at a time.',
    );
  if (code?.startsWith('LIMIT_')) return problem(400, 'Too many files', 'More files or fields than are taken at once.');
  // What express and its parsers refuse: broken JSON, broken addresses, unknown encodings.
  if (status !== undefined && status >= 400 && status < 500)
    return problem(status, 'Cannot be read', `The request cannot be read: ${(error as Error).message.slice(0, 200)}.`);
  if (databaseAway(error))
    return problem(
      503,
      'The database does not answer',
      'The database does not answer or can take nothing right now. Look whether your last step is there before you repeat it. Pulls wait in the server’s memory meanwhile, so do not stop it; start the database or free its disk.',
    );
  const state = sqlState(error);
  const refused = state && REFUSED.find(([pattern]) => pattern.test(state));
  if (refused) return refused[1]();
  new Logger('Server').error(loggable(error));
  return problem(
    500,
    'Something went wrong here',
    'Look whether your last step is there before you repeat it. If this happens again, look at the server’s log.',
  );
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
