/** Codes of a PostgreSQL that is away: refused or lost connections (node, SQLSTATE class 08), shutting down or starting (57P0x), full (53x). */
const AWAY = /^(ECONNREFUSED|ECONNRESET|EPIPE|ETIMEDOUT|ENOTFOUND|08...|57P0[123]|53[1234]00|58030)$/;
/** The driver and its pool give a line that broke, or that none was free in time, no code: their words are all there is. */
const AWAY_WITHOUT_CODE = /Connection terminated|connection timeout|timeout exceeded/i;
/** SQLSTATE classes of what is wrong with the statement's own data and stays wrong: data exceptions, integrity constraints. */
const LASTING = /^(22|23)...$/;

/** SQLSTATE of a key that is taken. */
export const UNIQUE_VIOLATION = '23505';

/** Whether an error, or what caused it, says that the database does not answer or can take nothing right now. */
export function databaseAway(error: unknown): boolean {
  return causes(error).some((at) => AWAY.test(codeOf(at) ?? '') || AWAY_WITHOUT_CODE.test(at.message));
}

/** Whether trying the same again can never store it: the data is refused, or the fault is in the program. */
export function lastingFault(error: unknown): boolean {
  if (databaseAway(error)) return false;
  const codes = causes(error).flatMap((at) => codeOf(at) ?? []);
  // PostgreSQL answers with a code; an error without any comes from this program.
  return codes.length === 0 || codes.some((code) => LASTING.test(code));
}

/** The SQLSTATE of an error or of what caused it; null where PostgreSQL said nothing. */
export function sqlState(error: unknown): string | null {
  return (
    causes(error)
      .flatMap((at) => codeOf(at) ?? [])
      .find((code) => /^[0-9A-Z]{5}$/.test(code)) ?? null
  );
}

function causes(error: unknown): Error[] {
  const found: Error[] = [];
  for (let at = error; at instanceof Error && found.length < 10; at = at.cause) found.push(at);
  return found;
}

function codeOf(error: Error): string | null {
  const { code } = error as { code?: unknown };
  return typeof code === 'string' ? code : null;
}

/** An error for the log: with its stack, without the statement's parameters, which hold people's data and password hashes. */
export function loggable(error: unknown): string {
  if (!(error instanceof Error)) return String(error);
  const statement = (error as { query?: unknown }).query;
  if (typeof statement !== 'string') return error.stack ?? error.message;
  return `${error.cause instanceof Error ? loggable(error.cause) : 'Query failed'}\n  in: ${statement.slice(0, 400)}`;
}
