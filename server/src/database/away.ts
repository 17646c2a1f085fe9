/** Codes of a PostgreSQL that is away: refused or lost connections (node, SQLSTATE class 08), shutting down or starting (57P0x), full (53x). */
const AWAY = /^(ECONNREFUSED|ECONNRESET|EPIPE|ETIMEDOUT|ENOTFOUND|08...|57P0[123]|53[123]00)$/;

/** Whether an error, or what caused it, says that the database does not answer or can take nothing right now. */
export function databaseAway(error: unknown): boolean {
  for (let at = error; at instanceof Error; at = at.cause) {
    if (AWAY.test(String((at as { code?: unknown }).code))) return true;
    if (/Connection terminated|connection timeout/i.test(at.message)) return true;
  }
  return false;
}
