/** What a person deleted can be brought back for this long; then it is cleared away. */
export const UNDO_DAYS = 30;

export function daysAgo(days: number): Date {
  return new Date(Date.now() - days * 86_400_000);
}
